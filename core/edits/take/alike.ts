import type { Level } from '../../document/records'
import { sameJson } from '../change/sameJson'
import { sways } from '../../document/swayShift'
import type { SetBody } from '../../document/units'

/** What of a level nobody sees. */
const UNSEEN: ReadonlySet<string> = new Set<keyof Level>(['id', 'order', 'locked', 'group', 'figure', 'owes', 'paper'])

const looks = (level: Level) => Object.fromEntries(Object.entries(level).filter(([field, value]) => value !== undefined && value !== null && !UNSEEN.has(field)))

/** Whether one level can be seen in the place of another. Those that sway go on swaying from where each shot began: they stay two. */
export const alikeLevels = (a: Level, b: Level, sets?: Readonly<Record<string, SetBody>>): boolean => !sways(a, sets) && !sways(b, sets) && sameJson(looks(a), looks(b))
