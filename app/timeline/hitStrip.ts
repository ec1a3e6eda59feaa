import { RULER, rowAt } from './stripRows'
import { frameOfX, xOfFrame, type StripScale } from './stripScale'
import { spanBox } from './drawSpans'
import { fadeHandles, headOf } from './drawLanes'
import { clipAt, laneAt } from './stripLanes'
import type { StripScene } from './stripScene'

export type StripHit =
  | { readonly kind: 'ruler'; readonly frame: number }
  | { readonly kind: 'mark'; readonly markId: string; readonly frame: number }
  | { readonly kind: 'range-end'; readonly which: 'in' | 'out'; readonly frame: number }
  | { readonly kind: 'shot'; readonly shotId: string; readonly frame: number }
  | { readonly kind: 'shot-end'; readonly shotId: string }
  | { readonly kind: 'panel'; readonly shotId: string; readonly takeId: string; readonly panelId: string; readonly startFrame: number }
  | { readonly kind: 'panel-end'; readonly shotId: string; readonly takeId: string; readonly panelId: string }
  | { readonly kind: 'bead'; readonly shotId: string; readonly framingId: string }
  | { readonly kind: 'level-key'; readonly shotId: string; readonly ids: readonly string[] }
  | { readonly kind: 'cut'; readonly shotId: string; readonly fromFrame: number }
  | { readonly kind: 'cut-edge'; readonly shotId: string; readonly fromFrame: number }
  | { readonly kind: 'dissolve-end'; readonly shotId: string; readonly fromFrame: number; readonly end: 'from' | 'to' }
  | { readonly kind: 'span'; readonly shotId: string; readonly spanId: string }
  | { readonly kind: 'span-end'; readonly shotId: string; readonly spanId: string; readonly end: 'first' | 'last' }
  | { readonly kind: 'work'; readonly shotId: string; readonly frame: number }
  | { readonly kind: 'level'; readonly shotId: string; readonly frame: number }
  | { readonly kind: 'transition'; readonly id: string }
  | { readonly kind: 'transition-end'; readonly id: string; readonly end: 'from' | 'to' }
  | { readonly kind: 'lane'; readonly laneId: string; readonly frame: number }
  | { readonly kind: 'clip'; readonly laneId: string; readonly clipId: string; readonly frame: number }
  | { readonly kind: 'clip-end'; readonly clipId: string; readonly end: 'start' | 'end' }
  | { readonly kind: 'fade'; readonly clipId: string; readonly end: 'in' | 'out' }
  | { readonly kind: 'proposal'; readonly clipId: string; readonly frame: number }
  | { readonly kind: 'camera'; readonly shotId: string; readonly frame: number }

/** Half the width in which an edge is grabbed, px; less on panels too narrow to have an inside. */
const EDGE_PX = 5
const BEAD_PX = 12
const MARK_PX = 7
const KEY_PX = 8
/** A fade's square lies beside the end of its clip, which must stay in hand. */
const FADE_REACH_PX = 5

/** What is under a point of the strip; null beside the film. */
export function hitStrip(scene: StripScene, scale: StripScale, x: number, y: number): StripHit | null {
  const row = rowAt(scene.rows, y)
  const frame = frameOfX(scale, x)
  if (row === null) return laneHit(scene, scale, x, y, frame)
  if (row === 'ruler') return (y >= RULER.figuresPx ? markAt(scene, scale, x) : rangeEndAt(scene, scale, x)) ?? { kind: 'ruler', frame }
  if (row === 'camera') {
    const bead = nearestBead(scene, scale, x)
    if (bead !== null) return bead
  }
  if (row === 'cuts') return cutAt(scene, scale, x, frame)
  if (row === 'work') {
    const span = spanAt(scene, scale, x, y)
    if (span !== null) return span
  }
  if (row === 'level') {
    const key = nearestKey(scene, scale, x)
    if (key !== null) return key
  }
  if (row === 'panels') {
    const end = nearestEnd(scene, scale, x)
    if (end !== null) return end
  }
  if (row === 'shots') {
    const transition = transitionHit(scene, scale, x)
    if (transition !== null) return transition
    const end = nearest(scene.shots, (shot) => shot.startFrame + shot.lengthFrames, scale, x, (shot) => reachOf(shot.lengthFrames * scale.pxPerFrame))
    if (end !== null) return { kind: 'shot-end', shotId: end.id }
  }
  const shot = scene.shots.find((entry) => frame >= entry.startFrame && frame < entry.startFrame + entry.lengthFrames)
  if (shot === undefined) return null
  if (row === 'shots') return { kind: 'shot', shotId: shot.id, frame }
  if (row === 'camera') return { kind: 'camera', shotId: shot.id, frame }
  if (row === 'work') return { kind: 'work', shotId: shot.id, frame }
  if (row === 'level') return { kind: 'level', shotId: shot.id, frame }
  const panel = shot.body?.panels.find((entry) => frame - shot.startFrame >= entry.startFrame && frame - shot.startFrame < entry.startFrame + entry.lengthFrames)
  return panel === undefined ? null : { kind: 'panel', shotId: shot.id, takeId: shot.takeId, panelId: panel.id, startFrame: shot.startFrame + panel.startFrame }
}

/** A cut stays in hand under its transition: only its middle gives way to it. */
function transitionHit(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const over = scene.transitions.find(({ from, to }) => x >= xOfFrame(scale, from) - EDGE_PX && x <= xOfFrame(scale, to) + EDGE_PX)
  if (over === undefined) return null
  const [x0, x1, cut] = [xOfFrame(scale, over.from), xOfFrame(scale, over.to), xOfFrame(scale, over.cutFrame)]
  const reach = reachOf(x1 - x0)
  const offCut = over.at === 'cut' ? Math.abs(x - cut) : Infinity
  for (const [end, at] of [['from', x0], ['to', x1]] as const) if (Math.abs(x - at) <= reach && Math.abs(x - at) <= offCut && at !== cut) return { kind: 'transition-end', id: over.id, end }
  return offCut <= 3 || x < x0 || x > x1 ? null : { kind: 'transition', id: over.id }
}

function laneHit(scene: StripScene, scale: StripScale, x: number, y: number, frame: number): StripHit | null {
  const lane = laneAt(scene, y)
  if (lane === null) return null
  for (const { clipId, frame: at } of scene.proposals) if (Math.abs(xOfFrame(scale, at) - x) <= EDGE_PX && lane.clips.some((clip) => clip.id === clipId)) return { kind: 'proposal', clipId, frame: at }
  const head = headOf(lane)
  for (const clip of [...lane.clips].reverse()) {
    if (!clip.chosen || head === 0 || (clip.endFrame - clip.startFrame) * scale.pxPerFrame < 24) continue
    const [fadeIn, fadeOut] = fadeHandles(scale, clip)
    if (Math.abs(y - (lane.top + 2 + head)) > FADE_REACH_PX) continue
    if (Math.abs(x - fadeIn) <= FADE_REACH_PX) return { kind: 'fade', clipId: clip.id, end: 'in' }
    if (Math.abs(x - fadeOut) <= FADE_REACH_PX) return { kind: 'fade', clipId: clip.id, end: 'out' }
  }
  const ends = lane.clips.flatMap((clip) => {
    const reach = reachOf((clip.endFrame - clip.startFrame) * scale.pxPerFrame)
    return [{ clip, end: 'start' as const, frame: clip.startFrame, reach }, { clip, end: 'end' as const, frame: clip.endFrame, reach }]
  })
  // Where two clips meet, the one whose inside the pointer is over has its end dragged.
  const inside = clipAt(lane, frame)
  const end = nearest(ends.filter(({ clip }) => inside === null || clip === inside), (each) => each.frame, scale, x, (each) => each.reach)
  if (end !== null) return { kind: 'clip-end', clipId: end.clip.id, end: end.end }
  return inside === null ? { kind: 'lane', laneId: lane.id, frame } : { kind: 'clip', laneId: lane.id, clipId: inside.id, frame }
}

const reachOf = (widthPx: number) => Math.min(EDGE_PX, Math.max(2, widthPx / 3))

/** The thing whose frame is nearest to x, if it is within reach. */
function nearest<T>(things: readonly T[], frameOf: (thing: T) => number, scale: StripScale, x: number, reachPx: (thing: T) => number): T | null {
  let best: { readonly thing: T; readonly off: number } | null = null
  for (const thing of things) {
    const off = Math.abs(xOfFrame(scale, frameOf(thing)) - x)
    if (off <= reachPx(thing) && (best === null || off < best.off)) best = { thing, off }
  }
  return best?.thing ?? null
}

function markAt(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const mark = nearest(scene.marks, (each) => each.frame, scale, x, () => MARK_PX)
  return mark === null ? null : { kind: 'mark', markId: mark.id, frame: mark.frame }
}

function rangeEndAt(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  if (scene.range === null) return null
  const ends = [{ which: 'in' as const, frame: scene.range.start }, { which: 'out' as const, frame: scene.range.end }]
  const end = nearest(ends, (each) => each.frame, scale, x, () => EDGE_PX)
  return end === null ? null : { kind: 'range-end', ...end }
}

function nearestBead(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const beads = scene.shots.flatMap((shot) => (shot.body?.beads ?? []).map((bead) => ({ shotId: shot.id, framingId: bead.id, frame: shot.startFrame + bead.frame })))
  const bead = nearest(beads, (each) => each.frame, scale, x, () => BEAD_PX)
  return bead === null ? null : { kind: 'bead', shotId: bead.shotId, framingId: bead.framingId }
}

function cutAt(scene: StripScene, scale: StripScale, x: number, frame: number): StripHit | null {
  const cuts = scene.shots.flatMap((shot) => (shot.body?.cuts ?? []).map((cut) => ({ cut, shot })))
  const ends = cuts.flatMap(({ cut, shot }) => (cut.dissolve === null ? [] : (['from', 'to'] as const).map((end) => ({ shotId: shot.id, fromFrame: cut.fromFrame, end, frame: shot.startFrame + cut.dissolve![end] }))))
  const edge = nearest(cuts.filter(({ cut }) => cut.fromFrame > 0), ({ cut, shot }) => shot.startFrame + cut.fromFrame, scale, x, () => EDGE_PX)
  const end = nearest(ends, (each) => each.frame, scale, x, () => EDGE_PX)
  // The cut itself stays in hand between its dissolve's ends.
  if (end !== null && (edge === null || Math.abs(xOfFrame(scale, end.frame) - x) < Math.abs(xOfFrame(scale, edge.shot.startFrame + edge.cut.fromFrame) - x))) return { kind: 'dissolve-end', shotId: end.shotId, fromFrame: end.fromFrame, end: end.end }
  if (edge !== null) return { kind: 'cut-edge', shotId: edge.shot.id, fromFrame: edge.cut.fromFrame }
  const under = cuts.find(({ cut, shot }) => frame >= shot.startFrame + cut.fromFrame && frame < shot.startFrame + cut.toFrame)
  return under === undefined ? null : { kind: 'cut', shotId: under.shot.id, fromFrame: under.cut.fromFrame }
}

function spanAt(scene: StripScene, scale: StripScale, x: number, y: number): StripHit | null {
  const spans = scene.shots.flatMap((shot) => (shot.body?.spans ?? []).map((span) => ({ span, shotId: shot.id, box: spanBox(scene.rows, scale, shot.startFrame, span) })))
  const under = spans.filter(({ box }) => y >= box.top && y <= box.top + box.height)
  const ends = under.flatMap(({ span, shotId, box }) => (['first', 'last'] as const).map((end) => ({ spanId: span.id, shotId, end, off: Math.abs(x - (end === 'first' ? box.left : box.right)), reach: reachOf(box.right - box.left) })))
  const near = ends.filter(({ off, reach }) => off <= reach).sort((a, b) => a.off - b.off)[0]
  if (near !== undefined) return { kind: 'span-end', shotId: near.shotId, spanId: near.spanId, end: near.end }
  const inside = under.findLast(({ box }) => x >= box.left && x <= box.right)
  return inside === undefined ? null : { kind: 'span', shotId: inside.shotId, spanId: inside.span.id }
}

function nearestKey(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const keys = scene.shots.flatMap((shot) => (shot.body?.keys ?? []).map(({ ids, frame }) => ({ shotId: shot.id, ids, frame: shot.startFrame + frame })))
  const key = nearest(keys, (each) => each.frame, scale, x, () => KEY_PX)
  return key === null ? null : { kind: 'level-key', shotId: key.shotId, ids: key.ids }
}

function nearestEnd(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const ends = scene.shots.flatMap((shot) =>
    (shot.body?.panels ?? []).map((panel) => ({ shotId: shot.id, takeId: shot.takeId, panelId: panel.id, frame: shot.startFrame + panel.startFrame + panel.lengthFrames, widthPx: panel.lengthFrames * scale.pxPerFrame })),
  )
  const end = nearest(ends, (each) => each.frame, scale, x, (each) => reachOf(each.widthPx))
  return end === null ? null : { kind: 'panel-end', shotId: end.shotId, takeId: end.takeId, panelId: end.panelId }
}
