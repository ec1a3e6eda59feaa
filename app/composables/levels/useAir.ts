import { airOwner, placedKeys, type PlacedKey } from '@rubato/core/document'
import { addAir, keyAir, settleAir, shapeAir, settleRoom, removeKeys, type Made } from '@rubato/core/edits'
import { AIR_NAMES, type AirName, type AirValues } from '@rubato/core/moves'
import { placedLevel } from '@rubato/core/stage'
import { computed } from 'vue'
import type { ShownMove } from '~/components/desk/inspector/MoveFields.vue'
import type { FieldEvents } from '~/composables/view/useScrub'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { together } from '~/stores/levelHand'
import { wordRefusal } from '~/text/refusals'

const AIR_WORDS: Readonly<Record<AirName, string>> = { haze: 'haze', focus: 'soft focus' }

/** What an artist does with a shot's haze and focus. */
export function useAir() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const air = useAirStore()
  const newId = () => crypto.randomUUID()

  /** As it is at the playhead; while it plays, at a frame that can be read. Null where there is none. */
  const values = computed<{ readonly [A in AirName]: AirValues[A] | null }>(() => desk.stage?.airAt(desk.read.frame) ?? { haze: null, focus: null })
  const tracks = computed<Readonly<Record<AirName, readonly PlacedKey[]>>>(() => {
    const { take } = desk
    const of = (name: AirName) => (take === null ? [] : placedKeys(take, airOwner(name)))
    return { haze: of('haze'), focus: of('focus') }
  })
  const keyHere = (name: AirName) => tracks.value[name].find(({ frame }) => frame === desk.shotFrame)?.record ?? null
  const stateOf = (name: AirName) => (keyHere(name) !== null ? 'here' : tracks.value[name].length > 0 ? 'elsewhere' : 'none')
  /** Nothing can be changed here: there are keys, and none on this frame. */
  const isBetween = (name: AirName) => !desk.autoKey && tracks.value[name].length > 1 && keyHere(name) === null

  /** The distance of the selected level from the lens at this frame; of the picture plane where none is. */
  const reach = computed(() => {
    const placed = placedLevel(desk.stageFrame, desk.selectedLevelId)
    return Math.max(0.05, placed?.z ?? -(desk.read.pose?.depth ?? -1))
  })
  const rounded = (value: number) => Math.round(value * 1000) / 1000

  function toggle(name: AirName) {
    const takeId = desk.takeId
    if (takeId === null) return
    air.chosen = name
    const on = values.value[name] !== null
    const start: AirValues = { haze: { density: 0.15, start: rounded(reach.value), colour: '#dfe5e6' }, focus: { sharp: rounded(reach.value), strength: 0.02 } }
    film.perform(`${AIR_WORDS[name]} ${on ? 'off' : 'on'}`, (f) => (on ? settleAir(f.takes[takeId]!, takeId, name, null) : addAir(f.takes[takeId]!, takeId, name, start[name])))
  }

  const make = (name: AirName, value: AirValues[AirName], keyId: string) => {
    const [takeId, frame] = [desk.takeId!, desk.shotFrame]
    return (f: typeof film.film): Made => (desk.autoKey ? keyAir(f.takes[takeId]!, takeId, name, frame, value, keyId) : shapeAir(f.takes[takeId]!, takeId, name, frame, value))
  }

  /** A number of it in a field; a colour is set at once. */
  function field<A extends AirName>(name: A, label: string, valueOf: (value: number, now: AirValues[A]) => AirValues[A]): FieldEvents {
    let gesture: ReturnType<typeof film.beginGesture> | null = null
    let from: AirValues[A] | null = null
    let keyId = ''
    const said = `${label} of ${AIR_WORDS[name]}`
    return {
      begin: () => {
        air.chosen = name
        if (isBetween(name)) return film.refuse(wordRefusal({ code: 'between-air-keys' }))
        from = values.value[name]
        keyId = newId()
        gesture = film.beginGesture(said)
      },
      scrub: (value) => from !== null && gesture?.update(make(name, valueOf(value, from), keyId)),
      commit: () => (gesture?.commit(), (gesture = from = null)),
      cancel: () => (gesture?.abandon(), (gesture = from = null)),
      set: (value) => set(name, said, (now) => valueOf(value, now)),
    }
  }
  function set<A extends AirName>(name: A, said: string, valueOf: (now: AirValues[A]) => AirValues[A]) {
    air.chosen = name
    const now = values.value[name]
    if (now !== null) film.perform(said, make(name, valueOf(now), newId()), `air:${said}`)
  }

  function toggleKey(name: AirName) {
    const [takeId, here, now, frame] = [desk.takeId, keyHere(name), values.value[name], desk.shotFrame]
    if (takeId === null || now === null) return
    air.chosen = name
    if (here !== null) film.perform(`delete key of ${AIR_WORDS[name]}`, (f) => removeKeys(f.takes[takeId]!, takeId, [here.id]))
    else film.perform(`key ${AIR_WORDS[name]}`, (f) => keyAir(f.takes[takeId]!, takeId, name, frame, now, newId()))
  }
  /** It stays as it is here for the whole shot. */
  function settle(name: AirName) {
    const [takeId, now] = [desk.takeId, values.value[name]]
    if (takeId !== null && now !== null) film.perform(`${AIR_WORDS[name]} alike for the whole shot`, (f) => settleAir(f.takes[takeId]!, takeId, name, now))
  }

  /** This shot has what was copied, for the whole of it; what was not there to be copied stays. */
  function paste() {
    const [takeId, copied] = [desk.takeId, air.copied]
    if (takeId === null) return
    if (copied === null) return film.refuse('No haze or soft focus has been copied yet. Copy it in the shot that has it first.')
    film.perform('paste air', (f) => {
      const take = f.takes[takeId]!
      return together(AIR_NAMES.filter((name) => copied[name] !== null), (name) => (take.air[name] === undefined ? addAir(take, takeId, name, copied[name]!) : settleAir(take, takeId, name, copied[name]!)))
    })
  }
  function copy() {
    if (values.value.haze === null && values.value.focus === null) return film.refuse('This shot has no haze and no soft focus to copy.')
    air.copied = values.value
  }

  /** The way that the playhead is in. */
  const move = computed<ShownMove | null>(() => {
    const name = air.inHand
    if (name === null || desk.take === null) return null
    const placed = tracks.value[name]
    const index = placed.findLastIndex(({ frame }) => frame <= desk.shotFrame)
    const [from, to] = [placed[index], placed[index + 1]]
    if (from === undefined || to === undefined) return null
    const title = AIR_WORDS[name]
    return { keys: [from.record], title: `${title[0]!.toUpperCase()}${title.slice(1)}, ${index + 1} → ${index + 2}`, name: '', frames: to.frame - from.frame, room: settleRoom(desk.take, from.record.id), inner: index > 0, places: null, onScreen: false, what: 'key' }
  })

  return { values, tracks, stateOf, isBetween, reach, toggle, field, set, toggleKey, settle, copy, paste, move, names: AIR_NAMES }
}
