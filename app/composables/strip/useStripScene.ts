import type { Finding } from '@rubato/core/checks'
import { airOwner, inOrder, placedKeys, placedPanels, exposuresOf, spanWeight, takeLengthFrames, type PlacedSpan, type TakeBody } from '@rubato/core/document'
import { levelPartsOf, type AirName } from '@rubato/core/moves'
import { factorOfDb, isHeard } from '@rubato/core/sound'
import type { PlacedShot, TakeStage } from '@rubato/core/stage'
import { framesPerSecond } from '@rubato/core/time'
import { refDebounced } from '@vueuse/core'
import { computed, shallowRef, watch, type ComputedRef } from 'vue'
import { useBoardThumbsStore } from '~/stores/boardThumbs'
import { useFinishedFramesStore } from '~/stores/finishedFrames'
import { usePeaksStore } from '~/stores/peaks'
import { useAirStore } from '~/stores/air'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import { beadsOf } from '~/composables/levels/useLevelMoves'
import { movesNamed, spanName } from '~/text/cameraWords'
import { rowsEnd, stripRows, type StripRow } from '~/timeline/stripRows'
import { frameOfX, type StripScale } from '~/timeline/stripScale'
import { panelKey, type StripBody, type StripClip, type StripLane, type StripScene, type StripRun, type StripShot, type StripSpan } from '~/timeline/stripScene'

/** Small pictures of panels, and the least width of a panel that shows one. */
const THUMB_HEIGHT_PX = 55
const THUMB_FROM_PX = 12
const CUT_HEIGHT_PX = 33
/** Of one shot's camera cuts so many have a picture. */
const MOST_CUTS = 60
/** Shots narrower than this are a block: their bodies are not asked for. */
const BODY_FROM_PX = 16
const MOST_BODIES = 120
const SETTLED_MS = 350
/** Clips narrower than this are a block without a wave. */
const WAVE_FROM_PX = 4

/** What of a shot's body depends on nothing but the body, worked out once for each. */
interface Fixed {
  readonly cameraId: string | null
  readonly speeds: Float32Array
  readonly moves: StripBody['moves']
}

/** A shot that is too narrow for its body, or not loaded. */
const BLOCK: Pick<StripShot, 'body' | 'thumbs'> = { body: null, thumbs: new Map() }

const rangesOf = (findings: readonly Finding[]): StripShot['found'] => findings.flatMap(({ kind, ranges }) => ranges.map(([from, to]) => ({ kind, from, to })))

/** What the strip shows of the film at a scale. */
export function useStripScene(scale: ComputedRef<StripScale>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()
  const cache = useFinishedFramesStore()
  const thumbs = useBoardThumbsStore()
  const sound = useSoundStore()
  const peaks = usePeaksStore()
  const air = useAirStore()
  const edges = useEdgesStore()
  const live = shallowRef<StripScene['live']>(null)
  const drop = shallowRef<StripScene['drop']>(null)
  const snapFrame = shallowRef<number | null>(null)
  const ratio = Math.min(2, typeof window === 'undefined' ? 1 : window.devicePixelRatio || 1)
  const cutWidthPx = computed(() => Math.round(CUT_HEIGHT_PX * ratio * (film.optics?.aspect ?? 16 / 9)))
  const thumbWidthPx = computed(() => Math.round(THUMB_HEIGHT_PX * ratio * (film.optics?.aspect ?? 16 / 9)))

  const fixed = new WeakMap<TakeStage, Fixed>()
  const bodies = new WeakMap<TakeStage, { readonly levelId: string | null; readonly cameraId: string | null; readonly beads: string; readonly keys: string; readonly span: string | null; readonly cut: number | null; readonly airHand: AirName | null; readonly body: StripBody }>()

  function fixedOf(stage: TakeStage, cameraId: string | null): Fixed {
    const known = fixed.get(stage)
    if (known?.cameraId === cameraId) return known
    const framings = cameraId === null ? [] : stage.framings(cameraId)
    const speeds = new Float32Array(stage.lengthFrames)
    const spans = stage.workOf(cameraId)?.spans ?? []
    if (framings.length > 1 || spans.length > 0) {
      const [first, last] = [Math.max(0, Math.min(framings[0]?.frame ?? Infinity, ...spans.map((placed) => placed.first - 1))), Math.ceil(stage.lastMovingFrame(cameraId!))]
      for (let frame = first; frame < Math.min(last + 1, stage.lengthFrames - 1); frame++) speeds[frame] = stage.speedOf(cameraId, frame)
    }
    const moves = cameraId === null ? [] : movesNamed(stage, cameraId)
    const made = { cameraId, speeds, moves }
    fixed.set(stage, made)
    return made
  }

  function bodyOf(stage: TakeStage, current: boolean): StripBody {
    const levelId = current ? desk.selectedLevelId : null
    const selected = current ? desk.selectedFramingIds : []
    const selectedKeys = current ? desk.selectedKeyIds : []
    const span = current ? desk.selectedSpanId : null
    const cut = current ? desk.selectedCutFrame : null
    const airHand = current ? air.inHand : null
    const known = bodies.get(stage)
    const cameraId = current ? desk.cameraAtWorkId : stage.live.at(0)
    if (known !== undefined && known.levelId === levelId && known.cameraId === cameraId && known.beads === selected.join() && known.keys === selectedKeys.join() && known.span === span && known.cut === cut && known.airHand === airHand) return known.body
    const framings = cameraId === null ? [] : stage.framings(cameraId)
    const body: StripBody = {
      ...fixedOf(stage, cameraId),
      panels: placedPanels(stage.take).map(({ panel, index, startFrame }) => ({ id: panel.id, number: index + 1, startFrame, lengthFrames: panel.lengthFrames, locked: panel.lengthLocked })),
      ...(airHand === null ? levelKeysOf(stage, levelId, selectedKeys) : airKeysOf(stage.take, airHand, selectedKeys)),
      spans: spansOf(stage, cameraId, span),
      cuts: cutsOf(stage, current),
      beads: framings.map(({ framing, frame }, i) => ({ id: framing.id, number: i + 1, frame, shade: framings.length < 2 ? 1 : i / (framings.length - 1), selected: selected.includes(framing.id), locked: framing.locked })),
    }
    bodies.set(stage, { airHand, levelId, cameraId, beads: selected.join(), keys: selectedKeys.join(), span, cut, body })
    return body
  }

  /** Which camera is live when; none of a shot that has only one. Their pictures come when they are painted. */
  function cutsOf(stage: TakeStage, current: boolean): StripBody['cuts'] {
    const cameras = inOrder(stage.take.cameras)
    if (cameras.length < 2) return []
    const { spans, dissolves } = stage.live
    return spans.map(({ from, cameraId }, i) => {
      const toFrame = spans[i + 1]?.from ?? stage.lengthFrames
      const index = cameras.findIndex(({ id }) => id === cameraId)
      const dissolve = i === 0 ? null : (dissolves.find((each) => each.from <= from && from <= each.to && each.after === cameraId) ?? null)
      return { fromFrame: from, toFrame, letter: cameras[index]!.letter, index, atWork: current && cameraId === desk.cameraAtWorkId, selected: current && desk.selectedCutFrame === from, dissolve, picture: null }
    })
  }

  /** Past its dissolve, where it is seen alone. */
  const pictureFrameOf = ({ fromFrame, toFrame, dissolve }: StripBody['cuts'][number]) => Math.min(toFrame - 1, dissolve?.to ?? fromFrame)

  /** A camera's spans; those that share frames lie side by side. */
  function spansOf(stage: TakeStage, cameraId: string | null, selected: string | null): readonly StripSpan[] {
    const placed = stage.workOf(cameraId)?.spans ?? []
    const lanes: number[] = []
    const laneOf = new Map(placed.map((each) => {
      const free = lanes.findIndex((last) => last < each.first)
      const lane = free < 0 ? lanes.length : free
      lanes[lane] = each.last
      return [each, lane] as const
    }))
    return placed.map((each) => ({ id: each.span.id, kind: each.span.kind, name: spanName(stage.take, each.span), fromFrame: each.first, toFrame: each.last, open: each.open, weights: slopesOf(each), lane: laneOf.get(each)!, lanes: lanes.length, selected: each.span.id === selected }))
  }

  /** The frames over which a span comes in and goes out; between them it is whole. */
  function slopesOf(placed: PlacedSpan): StripSpan['weights'] {
    const { first, last, span } = placed
    const [a, b] = [Math.min(last, first + Math.ceil(span.inFrames)), Math.max(first, last - Math.ceil(span.outFrames))]
    const steps = (from: number, to: number) => Array.from({ length: 9 }, (_, i) => Math.round(from + ((to - from) * i) / 8))
    const frames = [...new Set([...steps(first, a), ...(placed.open ? [last] : steps(b, last))])].sort((p, q) => p - q)
    return frames.map((frame) => ({ frame, weight: spanWeight(placed, frame) }))
  }

  /** The selected level's keys, and where it is under way. */
  function levelKeysOf(stage: TakeStage, levelId: string | null, selected: readonly string[]): Pick<StripBody, 'keys' | 'ways' | 'runs'> {
    if (levelId === null || stage.take.levels[levelId] === undefined) return { keys: [], ways: [], runs: [] }
    const motion = stage.motionOf(levelId)
    const keys = beadsOf(motion.keys)
    const ways = keys.slice(1).flatMap((to, i) => {
      const [fromFrame, toFrame] = [keys[i]!.frame, to.frame]
      return levelPartsOf(motion.keyedAt(fromFrame), motion.keyedAt(toFrame)).length === 0 ? [] : [{ fromFrame, toFrame }]
    })
    return { keys: keys.map(({ ids, frame, locked }) => ({ ids, frame, locked, selected: ids.some((id) => selected.includes(id)) })), ways, runs: runsOf(stage.take, levelId) }
  }

  /** The keys of a shot's haze or focus. */
  function airKeysOf(take: TakeBody, name: AirName, selected: readonly string[]): Pick<StripBody, 'keys' | 'ways' | 'runs'> {
    const keys = placedKeys(take, airOwner(name))
    const { values, valueOf } = airOwner(name).kind
    const ways = keys.slice(1).flatMap((to, i) => (values.equal(valueOf(keys[i]!.record), valueOf(to.record)) ? [] : [{ fromFrame: keys[i]!.frame, toFrame: to.frame }]))
    return { keys: keys.map(({ record: { id, locked }, frame }) => ({ ids: [id], frame, locked, selected: selected.includes(id) })), ways, runs: [] }
  }

  /** What a level shows, run by run; where it shows nothing there is none. */
  function runsOf(take: TakeBody, levelId: string): readonly StripRun[] {
    const exposures = exposuresOf(take, levelId)
    const ends = new Map(placedPanels(take).map(({ panel, startFrame }) => [panel.id, startFrame + panel.lengthFrames]))
    return exposures.flatMap(({ frame, cell }, i): StripRun[] => {
      const toFrame = exposures[i + 1]?.frame ?? takeLengthFrames(take)
      return cell.drawingId === null ? [] : [{ fromFrame: frame, toFrame, holdsFrom: Math.min(toFrame, ends.get(cell.panelId)!) }]
    })
  }

  /** Found by where they stand, so that the film's length costs nothing. */
  const visibleShots = computed<readonly PlacedShot[]>(() => {
    const { shots, shotAt } = film.filmStage
    const last = frameOfX(scale.value, scale.value.widthPx)
    const from = shotAt(scale.value.firstFrame)?.index ?? 0
    let to = from
    while (to < shots.length && shots[to]!.startFrame <= last) to++
    return shots.slice(from, to)
  })

  const isWide = (placed: PlacedShot) => placed.lengthFrames * scale.value.pxPerFrame >= BODY_FROM_PX

  /** What is the same for all shots is read once: all of a long film may be in view. */
  const shots = computed<readonly StripShot[]>(() => {
    const { pxPerFrame } = scale.value
    const [{ shotId }, { speakingIn }, { begunTakes }, chosenShots] = [desk, edges, cache, new Set(boards.shots)]
    return visibleShots.value.map((placed) => {
      const { shot, startFrame, lengthFrames } = placed
      const takeId = shot.circledTakeId
      const current = shot.id === shotId
      return {
        id: shot.id,
        takeId,
        label: shot.label,
        title: shot.title,
        startFrame,
        lengthFrames,
        current,
        chosen: chosenShots.has(shot.id),
        found: speakingIn.has(takeId) ? rangesOf(speakingIn.get(takeId)!) : [],
        ...(lengthFrames * pxPerFrame < BODY_FROM_PX ? BLOCK : bodyScene(takeId, current, pxPerFrame)),
        ready: begunTakes.has(takeId) ? cache.readyIn(takeId) : null,
      }
    })
  })

  function bodyScene(takeId: string, current: boolean, pxPerFrame: number): Pick<StripShot, 'body' | 'thumbs'> {
    const stage = film.stageOf(takeId)
    if (stage === null) return BLOCK
    const plain = bodyOf(stage, current)
    const body = plain.cuts.length === 0 ? plain : { ...plain, cuts: plain.cuts.map((cut) => ({ ...cut, picture: thumbs.bitmapOfFrame(takeId, pictureFrameOf(cut), cutWidthPx.value) })) }
    const pictures = new Map<string, ImageBitmap>()
    for (const panel of body.panels) {
      if (panel.lengthFrames * pxPerFrame < THUMB_FROM_PX) continue
      const bitmap = thumbs.bitmapOf(takeId, panel.id, thumbWidthPx.value)
      if (bitmap !== null) pictures.set(panel.id, bitmap)
    }
    return { body, thumbs: pictures }
  }

  const chosen = computed(() => new Set(boards.panels.map(({ takeId, panelId }) => panelKey(takeId, panelId))))
  const currentPanel = computed(() => (desk.takeId === null || desk.placedPanel === null ? null : panelKey(desk.takeId, desk.placedPanel.panel.id)))
  const visibleMarks = computed(() => {
    const [first, last] = [scale.value.firstFrame - 400 / scale.value.pxPerFrame, frameOfX(scale.value, scale.value.widthPx)]
    return timing.marks.filter(({ frame }) => frame >= first && frame <= last)
  })
  const fps = computed(() => (film.project === null ? 24 : framesPerSecond(film.project.rate)))
  /** A row of camera cuts, where any shot that can be seen has a second camera. */
  const rows = computed(() => stripRows(shots.value.some(({ body }) => body !== null && body.cuts.length > 0)))
  /** Where the lanes of sound lie: the same object until one of them lies elsewhere. */
  const lanePlaces = computed<readonly StripRow[]>((before) => {
    let top = rowsEnd(rows.value)
    const now = sound.lanes.map(({ id }) => {
      const place = { top, height: sound.heightOf(id) }
      top += place.height
      return place
    })
    return before?.length === now.length && now.every((place, i) => place.top === before[i]!.top && place.height === before[i]!.height) ? before : now
  })
  const lanes = computed<readonly StripLane[]>(() => {
    const heard = new Set(sound.lanes.filter((lane) => isHeard(lane, sound.lanes)).map((lane) => lane.id))
    const perSecond = fps.value
    const seen = new Map<string, StripClip[]>(sound.lanes.map((lane) => [lane.id, []]))
    const [from, to] = [scale.value.firstFrame / perSecond, frameOfX(scale.value, scale.value.widthPx) / perSecond]
    for (const placed of sound.placed.between(from, to)) {
      const { clip } = placed
      const widthPx = clip.lengthSeconds * perSecond * scale.value.pxPerFrame
      const wave = widthPx < WAVE_FROM_PX ? null : peaks.of(clip.assetHash)
      seen.get(clip.laneId)!.push({
        id: clip.id,
        startFrame: placed.startSeconds * perSecond,
        endFrame: placed.endSeconds * perSecond,
        name: clip.speaker === '' ? clip.name : clip.speaker,
        line: clip.line,
        fadeInFrames: placed.fadeInSeconds * perSecond,
        fadeOutFrames: placed.fadeOutSeconds * perSecond,
        gain: factorOfDb(clip.gainDb),
        chosen: sound.chosen.includes(clip.id),
        free: clip.shotId === null,
        wave: wave === null ? null : { peaks: wave, fromSeconds: clip.fromSeconds, lengthSeconds: clip.lengthSeconds },
        trouble: sound.troubles.get(clip.assetHash) ?? null,
      })
    }
    return sound.lanes.map((lane, i) => ({ id: lane.id, ...lanePlaces.value[i]!, kind: lane.kind, heard: heard.has(lane.id), clips: seen.get(lane.id)! }))
  })
  const transitions = computed(() =>
    film.filmStage.transitions
      .filter(({ from, to }) => to >= scale.value.firstFrame && from <= frameOfX(scale.value, scale.value.widthPx))
      .map(({ transition: { id, kind, at, colour }, from, to, cutFrame }) => ({ id, kind, at, from, to, cutFrame, colour, chosen: id === sound.transitionId })),
  )
  const proposals = computed(() => {
    const { proposals: now } = sound
    const placed = now === null ? null : sound.placed.placeOf(now.clipId)
    return now === null || placed === null ? [] : now.atSeconds.map((at) => ({ clipId: now.clipId, frame: (placed.startSeconds + at - placed.clip.fromSeconds) * fps.value }))
  })

  const scene = computed<StripScene>(() => ({
    rows: rows.value,
    shots: shots.value,
    lanes: lanes.value,
    transitions: transitions.value,
    proposals: proposals.value,
    lengthFrames: desk.lengthFrames,
    framesPerSecond: desk.fps,
    timecode: timing.moment,
    currentPanel: currentPanel.value,
    chosen: chosen.value,
    marks: visibleMarks.value.map(({ mark, frame }) => ({ id: mark.id, frame, name: mark.name, meaning: mark.meaning, selected: mark.id === timing.selectedMarkId })),
    range: timing.range,
    drop: drop.value,
    snapFrame: snapFrame.value,
    live: live.value,
  }))

  // Bodies of what is in view are fetched, so that panels and moves show; then their pictures are painted.
  const view = computed(() => [visibleShots.value, scale.value.pxPerFrame, film.film, film.gestureOpen] as const)
  watch(
    visibleShots,
    (now) => {
      const wanted = now.filter(isWide).slice(0, MOST_BODIES).map((placed) => placed.shot.circledTakeId)
      if (wanted.some((id) => film.takeOf(id) === null)) void film.ensure('take', wanted).catch((error: Error) => film.refuse(`${error.message} Panels that are not loaded show grey.`))
    },
    { immediate: true },
  )
  const settled = refDebounced(view, SETTLED_MS)
  // What came into view while it played is painted when it stops.
  watch([settled, () => desk.playing], () => void wantThumbs(), { immediate: true })
  async function wantThumbs() {
    if (film.gestureOpen || desk.playing) return
    const takes = new Map<string, string[]>()
    for (const placed of visibleShots.value.filter(isWide).slice(0, MOST_BODIES)) {
      const takeId = placed.shot.circledTakeId
      const panels = timing.panelsOf(takeId).filter(({ panel }) => panel.lengthFrames * scale.value.pxPerFrame >= THUMB_FROM_PX)
      if (panels.length > 0) takes.set(takeId, panels.map(({ panel }) => panel.id))
    }
    for (const [takeId, panels] of takes) {
      // One shot's art after the other, the nearest to the left first: what is in view may be much.
      await film.ensureTakeWithArt(takeId).catch(() => undefined)
      if (film.gestureOpen) return
      for (const panelId of panels) thumbs.want(takeId, panelId, thumbWidthPx.value)
      const stage = film.stageOf(takeId)
      if (stage !== null) for (const cut of cutsOf(stage, false).slice(0, MOST_CUTS)) thumbs.wantFrame(takeId, pictureFrameOf(cut), cutWidthPx.value)
    }
  }

  return { scene, rows, lanePlaces, visibleShots, live, drop, snapFrame }
}
