import type { Point3 } from '@rubato/core/geometry'
import { compareOrdered, pieceLevelId, pieceOf, rackLevels, showsNothing, wholeOf, type Level, type SetLevel, type TakeBody } from '@rubato/core/document'
import { computed, ref, shallowRef, watch, type Ref } from 'vue'

interface Desk {
  readonly takeId: Readonly<Ref<string | null>>
  readonly take: Readonly<Ref<TakeBody | null>>
  readonly view: Readonly<Ref<string>>
  readonly tool: Readonly<Ref<string>>
  /** Where a level stands in the set. */
  readonly placeOf: (levelId: string) => Point3
}

/** What is chosen of the shot: levels, and of framings, keys, spans and camera cuts one kind at a time. */
export function createChosen({ takeId, take, view, tool, placeOf }: Desk) {
  const selectedLevelId = ref<string | null>(null)
  /** Levels chosen beside the selected one. */
  const alsoLevelIds = shallowRef<readonly string[]>([])
  const selectedFramingIds = shallowRef<readonly string[]>([])
  /** Keys of levels. */
  const selectedKeyIds = shallowRef<readonly string[]>([])
  /** A span of the camera at work. */
  const selectedSpanId = ref<string | null>(null)
  /** The camera cut that is chosen, by its frame of the shot. */
  const selectedCutFrame = ref<number | null>(null)
  /** The level whose set is worked in; null where none is. */
  const openedSetId = ref<string | null>(null)
  const openedSet = computed<SetLevel | null>(() => {
    const level = openedSetId.value === null ? undefined : take.value?.levels[openedSetId.value]
    return level?.kind === 'set' ? level : null
  })
  /** Those of the shot, and the pieces of the set that is worked in: what can be chosen. */
  const levels = computed<readonly Level[]>(() => {
    if (take.value === null) return []
    const isOpen = (setLevelId: string) => setLevelId === openedSet.value?.id
    return rackLevels(take.value).filter(({ id }) => {
      const piece = pieceOf(id)
      return piece === null || isOpen(piece.setLevelId)
    })
  })
  /** Which level can be chosen for one that is seen, or that has just been made: of a set that is not worked in, all of it. */
  function choosable(id: string): string {
    const open = openedSet.value?.id
    if (open !== undefined && take.value?.levels[id] === undefined && take.value?.levels[pieceLevelId(open, id)] !== undefined) return pieceLevelId(open, id)
    return pieceOf(id)?.setLevelId === open ? id : wholeOf(id)
  }
  const selectedLevel = computed(() => levels.value.find((level) => level.id === selectedLevelId.value) ?? null)
  const chosenLevelIds = computed(() => (selectedLevelId.value === null ? alsoLevelIds.value : [selectedLevelId.value, ...alsoLevelIds.value.filter((id) => id !== selectedLevelId.value)]))

  // One kind of thing is chosen at a time.
  watch(selectedFramingIds, (now) => {
    if (now.length === 0) return
    selectedKeyIds.value = []
    selectedSpanId.value = null
  })
  watch(selectedKeyIds, (now) => now.length > 0 && (selectedSpanId.value = null))
  watch(takeId, () => (selectedCutFrame.value = null))
  watch(selectedCutFrame, (now) => {
    if (now === null) return
    selectedFramingIds.value = []
    selectedKeyIds.value = []
    selectedSpanId.value = null
  })
  watch([selectedFramingIds, selectedKeyIds, selectedSpanId], ([framings, keys, span]) => (framings.length > 0 || keys.length > 0 || span !== null) && (selectedCutFrame.value = null))
  watch(selectedSpanId, (now) => {
    if (now === null) return
    selectedFramingIds.value = []
    selectedKeyIds.value = []
  })
  watch([() => take.value?.spans, takeId], () => {
    if (selectedSpanId.value !== null && take.value?.spans[selectedSpanId.value] === undefined) selectedSpanId.value = null
  })
  watch([selectedLevelId, takeId], () => (selectedKeyIds.value = []))
  // Taking up the pen with nothing selected is meant for the first level that can be drawn on.
  watch(tool, (now) => {
    if (now === 'pen') chooseLevelToDraw()
  })
  watch([view, takeId], () => {
    if (view.value === 'draw') chooseLevelToDraw()
  })
  watch(levels, (now) => {
    if (selectedLevelId.value !== null && !now.some((level) => level.id === selectedLevelId.value)) selectedLevelId.value = null
    if (alsoLevelIds.value.some((id) => !now.some((level) => level.id === id))) alsoLevelIds.value = []
    if (view.value === 'draw') chooseLevelToDraw()
  })

  /** With nothing selected, the first level that can be drawn on; a figure first. */
  function chooseLevelToDraw() {
    if (selectedLevel.value !== null) return
    const open = levels.value.filter((level) => level.visible && !level.locked && level.kind !== 'reference' && !showsNothing(level))
    selectedLevelId.value = (open.find((level) => level.figure === true) ?? open[0])?.id ?? null
  }

  /** Selects a level; with Ctrl or Shift it is chosen along with the others, or let go again. */
  function chooseLevel(seen: string, event: Pick<PointerEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'> | null = null) {
    const id = choosable(seen)
    const many = event !== null && (event.ctrlKey || event.metaKey || event.shiftKey)
    if (!many || selectedLevelId.value === null) {
      selectedLevelId.value = id
      alsoLevelIds.value = []
    } else if (id === selectedLevelId.value) {
      const [next, ...rest] = alsoLevelIds.value
      if (next === undefined) return
      selectedLevelId.value = next
      alsoLevelIds.value = rest
    } else alsoLevelIds.value = alsoLevelIds.value.includes(id) ? alsoLevelIds.value.filter((other) => other !== id) : [...alsoLevelIds.value, id]
  }

  /** Selects the next level nearer (−1) or farther (1). */
  function stepLevel(step: -1 | 1) {
    const nearFirst = [...levels.value].sort((a, b) => placeOf(a.id).depth - placeOf(b.id).depth || compareOrdered(a, b))
    const at = nearFirst.findIndex((level) => level.id === selectedLevelId.value)
    const next = nearFirst[Math.min(nearFirst.length - 1, Math.max(0, at + step))]
    if (next !== undefined) chooseLevel(next.id)
  }

  function chooseNoKeys() {
    selectedFramingIds.value = []
    selectedKeyIds.value = []
    selectedSpanId.value = null
    selectedCutFrame.value = null
  }

  /** In words that can be kept, and taken back. */
  const told = (): readonly string[] => [
    ...(selectedLevelId.value === null ? [] : [`level:${selectedLevelId.value}`]),
    ...selectedFramingIds.value.map((id) => `framing:${id}`),
    ...selectedKeyIds.value.map((id) => `key:${id}`),
    ...(selectedSpanId.value === null ? [] : [`span:${selectedSpanId.value}`]),
  ]
  function choose(selection: readonly string[]) {
    selectedLevelId.value = selection.find((entry) => entry.startsWith('level:'))?.slice(6) ?? null
    selectedFramingIds.value = selection.filter((entry) => entry.startsWith('framing:')).map((entry) => entry.slice(8))
    selectedKeyIds.value = selection.filter((entry) => entry.startsWith('key:')).map((entry) => entry.slice(4))
    selectedSpanId.value = selection.find((entry) => entry.startsWith('span:'))?.slice(5) ?? null
  }

  function reset() {
    selectedLevelId.value = null
    alsoLevelIds.value = []
    chooseNoKeys()
  }

  return { selectedLevelId, alsoLevelIds, selectedFramingIds, selectedKeyIds, selectedSpanId, selectedCutFrame, openedSetId, openedSet, levels, choosable, selectedLevel, chosenLevelIds, chooseLevelToDraw, chooseLevel, stepLevel, chooseNoKeys, told, choose, reset }
}
