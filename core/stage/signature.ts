import type { PlacedLevel, StageFrame } from './takeStage'

/**
 * What a frame's picture is made of, as text: of two frames it is the same only where their pictures are. `drawingName`
 * names a drawing's content (another content, another name); levels of `leftOut` are not shown.
 */
export function frameSignature({ pose, levels, shadows, air: { haze, focus } }: StageFrame, drawingName: (drawingId: string) => string | number, leftOut: ReadonlySet<string>): string {
  // Field by field: a pose may hold them in any order.
  const parts: (string | number)[] = [pose.x, pose.y, pose.depth, pose.panDegrees, pose.tiltDegrees, pose.rollDegrees, pose.focalLengthMm]
  if (haze !== null) parts.push('haze', haze.density, haze.start, haze.colour)
  if (focus !== null) parts.push('focus', focus.sharp, focus.strength)
  const put = ({ level, drawingId, plane: { origin, axisX, axisY }, pictureIndex, layer, opacity, tint, tone }: PlacedLevel, mark: string | number) => {
    if (drawingId === null || leftOut.has(level.id)) return
    parts.push(mark, drawingName(drawingId), pictureIndex ?? '', layer, opacity, tint === null ? '' : `${tint.colour}${tint.strength}`, tone === null ? '' : `${tone.light} ${tone.colour}`)
    parts.push(origin.x, origin.y, origin.depth, axisX.x, axisX.y, axisX.depth, axisY.x, axisY.y, axisY.depth)
  }
  for (const each of levels) put(each, '|')
  for (const each of shadows) put(each, `shadow ${each.level.shadow!.soft}`)
  return parts.join()
}
