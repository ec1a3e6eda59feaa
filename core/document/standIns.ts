import type { TakeBody } from './units'

/** Whether a take has any level that stands in for something. */
export const hasStandIns = ({ levels }: Pick<TakeBody, 'levels'>): boolean => Object.values(levels).some(({ standIn }) => standIn === true)

/** A take as it is without what stands in for something. They still carry what hangs on them, and cameras still go after them. */
export function withoutStandIns(take: TakeBody): TakeBody {
  if (!hasStandIns(take)) return take
  return { ...take, levels: Object.fromEntries(Object.entries(take.levels).map(([id, level]) => [id, level.standIn === true ? { ...level, visible: false } : level])) }
}
