import { exposuresOf, liveSpans, namedDrawings, pieceOf, placedPanels, showsNothing, takeLengthFrames, type TakeBody } from '@rubato/core/document'
import { runAt } from '@rubato/core/edits'
import { factorOfDb, isHeard, peaksBetween } from '@rubato/core/sound'
import { indexAt } from '@rubato/core/time'
import { computed, type Ref } from 'vue'
import type { SheetColumn, SheetScene, ShownRun } from '~/exposures/drawExposures'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { usePeaksStore } from '~/stores/peaks'
import { useSheetStore } from '~/stores/sheet'
import { useSoundStore } from '~/stores/sound'

/** What the sheet shows of the shot: its levels near to far, and beside them cameras, sound and words. */
export function useSheetScene(endAt: Ref<number | null>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sheet = useSheetStore()
  const sound = useSoundStore()
  const peaks = usePeaksStore()

  const frames = computed(() => (desk.take === null ? 0 : takeLengthFrames(desk.take)))
  /** Near first as the shot begins, so that columns do not change places while it plays. */
  const levels = computed(() => {
    const stage = desk.stage
    if (stage === null) return []
    const depth = new Map(desk.levels.map(({ id }) => [id, stage.seen(0).standOf(id).place.depth]))
    return desk.levels.filter((level) => !showsNothing(level) && pieceOf(level.id) === null).sort((a, b) => depth.get(a.id)! - depth.get(b.id)!)
  })

  function runsIn(take: TakeBody, levelId: string, names: ReadonlyMap<string, string>, ends: ReadonlyMap<string, number>, first: number, last: number): readonly ShownRun[] {
    const exposures = exposuresOf(take, levelId)
    const length = takeLengthFrames(take)
    const runs: ShownRun[] = []
    for (let at = Math.max(0, indexAt(exposures, first, ({ frame }) => frame)); at < exposures.length && exposures[at]!.frame <= last; at++) {
      const { frame, cell } = exposures[at]!
      runs.push({ from: frame, to: exposures[at + 1]?.frame ?? length, name: cell.drawingId === null ? null : (names.get(cell.drawingId) ?? '?'), holdsFrom: ends.get(cell.panelId)! })
    }
    return runs
  }
  const columns = computed<readonly SheetColumn[]>(() => {
    const { take } = desk
    if (take === null) return []
    const ends = new Map(placedPanels(take).map(({ panel, startFrame }) => [panel.id, startFrame + panel.lengthFrames]))
    return levels.value.map(({ id, name, locked }) => {
      let names: ReadonlyMap<string, string> | null = null
      return {
        id,
        name,
        locked,
        selected: id === desk.selectedLevelId,
        // Asked for only where its column is seen.
        runs: (first, last) => runsIn(take, id, (names ??= new Map(namedDrawings(take, id).map((each) => [each.drawingId, each.name]))), ends, first, last),
      }
    })
  })
  const cameras = computed(() => {
    const { take } = desk
    if (take === null) return []
    const spans = liveSpans(take)
    return spans.map(({ from, cameraId }, i) => {
      const letter = take.cameras[cameraId]?.letter ?? ''
      return { from, to: spans[i + 1]?.from ?? frames.value, letter, tone: letter.charCodeAt(0) - 65 }
    })
  })

  /** The clips that sound while the shot is seen, and where its first frame is in the film, seconds. */
  const heard = computed(() => {
    const shot = desk.placedShot
    if (shot === null) return null
    const lanes = new Map(sound.lanes.map((lane) => [lane.id, lane]))
    const open = new Set(sound.lanes.filter((lane) => isHeard(lane, sound.lanes)).map((lane) => lane.id))
    const start = shot.startFrame / desk.fps
    const placed = sound.placed.between(start, start + frames.value / desk.fps).filter(({ clip }) => open.has(clip.laneId))
    return { start, placed, lanes }
  })
  function loudness(first: number, last: number, parts: number): Float32Array {
    const found = new Float32Array((last - first + 1) * parts)
    const at = heard.value
    if (at === null) return found
    const step = 1 / desk.fps / parts
    for (const { clip, startSeconds, endSeconds } of at.placed) {
      const own = peaks.of(clip.assetHash)
      if (own === null) continue
      const from = Math.max(0, Math.floor((startSeconds - at.start - first / desk.fps) / step))
      const to = Math.min(found.length, Math.ceil((endSeconds - at.start - first / desk.fps) / step))
      if (to <= from) continue
      const seconds = (part: number) => clip.fromSeconds + at.start + first / desk.fps + part * step - startSeconds
      const pairs = peaksBetween(own, seconds(from), seconds(to), to - from)
      const gain = factorOfDb(clip.gainDb)
      for (let i = from; i < to; i++) found[i] = Math.max(found[i]!, Math.max(-pairs[(i - from) * 2]!, pairs[(i - from) * 2 + 1]!) * gain)
    }
    return found
  }
  const said = computed(() => {
    const { take } = desk
    const at = heard.value
    if (take === null || at === null) return []
    const spoken = at.placed.flatMap(({ clip, startSeconds, endSeconds }) => (at.lanes.get(clip.laneId)?.kind === 'voices' ? [{ from: (startSeconds - at.start) * desk.fps, to: (endSeconds - at.start) * desk.fps, who: clip.speaker, line: clip.line === '' ? '' : `“${clip.line}”` }] : []))
    // Where nobody speaks yet, what the panel says is to be said.
    const written = placedPanels(take).flatMap(({ panel, startFrame }) => {
      const end = startFrame + panel.lengthFrames
      return panel.dialogue.trim() === '' || spoken.some(({ from, to }) => from < end && to > startFrame) ? [] : [{ from: startFrame, to: end, who: '', line: panel.dialogue }]
    })
    return [...spoken, ...written]
  })
  const panels = computed(() => (desk.take === null ? [] : placedPanels(desk.take).map(({ index, startFrame }) => ({ startFrame, number: index + 1 }))))
  const selectedColumn = computed(() => columns.value.findIndex(({ selected }) => selected))

  const scene = computed<SheetScene>(() => {
    const { span } = sheet
    const at = selectedColumn.value
    const { take, selectedLevel } = desk
    const chosen = span === null || at < 0 ? null : { column: at, from: span.from, to: Math.min(frames.value, span.to) }
    const run = chosen === null || take === null || selectedLevel === null ? null : runAt(take, selectedLevel.id, chosen.from)
    const end = chosen === null || run === null || (chosen.to - chosen.from === 1 && run.drawingId === null) ? null : endAt.value ?? (chosen.to - chosen.from > 1 ? chosen.to : run.to)
    return {
      columns: columns.value,
      panels: panels.value,
      cameras: cameras.value,
      sound: loudness,
      said: said.value,
      playhead: desk.shotFrame,
      span: chosen,
      typed: sheet.typed,
      end: end === null || desk.playing || selectedLevel!.locked ? null : { column: at, frame: end },
    }
  })
  /** What a redraw hangs on beside the scene. */
  const waves = computed(() => [film.film.outline.clips, heard.value?.placed.map(({ clip }) => peaks.of(clip.assetHash))])
  return { scene, frames, columns, waves, selectedColumn }
}
