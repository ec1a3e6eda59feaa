/**
 * The turn from one angle to another, in degrees, the short way: 350° to 10° is +20°. A difference of a full turn or
 * more was keyed on purpose and is kept whole.
 */
export function turnBetween(fromDegrees: number, toDegrees: number): number {
  const difference = toDegrees - fromDegrees
  if (Math.abs(difference) >= 360) return difference
  const short = shortTurn(difference)
  return short === -180 && difference > 0 ? 180 : short
}

/** A turn without its full ones, −180…180. */
const shortTurn = (degrees: number) => ((((degrees + 180) % 360) + 360) % 360) - 180

/** The angle that looks where `degrees` does and is nearest to another, however often that has gone around. */
export const angleNear = (nearDegrees: number, degrees: number): number => nearDegrees + shortTurn(degrees - nearDegrees)

/** The angle at `p` of the way. It may leave −180…180, so that later turns stay continuous. */
export function angleAt(fromDegrees: number, toDegrees: number, p: number): number {
  if (p === 0) return fromDegrees
  if (p === 1) return toDegrees
  return fromDegrees + turnBetween(fromDegrees, toDegrees) * p
}
