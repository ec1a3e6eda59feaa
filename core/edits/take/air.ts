import { airKeys, placedKeys } from '../../document/keys'
import type { AirRecord } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { AIR_NAMES, type AirName, type AirValues } from '../../moves/airValues'
import { Draft } from '../change/draft'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { lockedKey, putKey, setValue } from './keys'

const recordOf = <A extends AirName>(name: A, value: AirValues[A]): AirRecord => ({ id: name, ...value }) as AirRecord
const missing = (name: AirName): Refused => refused({ code: 'missing', what: 'air', id: name })

/** Gives a shot haze or soft focus, for the whole of it; one that is there, with its keys, is refused by `shapeAir` alone. */
export function addAir<A extends AirName>(take: TakeBody, takeId: string, name: A, asked: AirValues[A]): Made {
  const value = airKeys(name).kind.held(asked)
  if (value === null) return refused({ code: 'pose-not-finite' })
  return made(new Draft(take).put('air', recordOf(name, value)).edit('air-add', takeRef(takeId)))
}

/** What is there without keys changes for the whole shot, with one key that one, with several the key on this frame; between keys it is refused. */
export function shapeAir<A extends AirName>(take: TakeBody, takeId: string, name: A, frame: number, asked: AirValues[A]): Made {
  const owner = airKeys(name)
  const value = owner.kind.held(asked)
  if (value === null) return refused({ code: 'pose-not-finite' })
  if (!Object.hasOwn(take.air, name)) return missing(name)
  const placed = placedKeys(take, owner)
  if (placed.length === 0) return made(new Draft(take).put('air', recordOf(name, value)).edit('air-edit', takeRef(takeId)))
  const here = placed.length === 1 ? placed[0] : placed.find((entry) => entry.frame === frame)
  return here === undefined ? refused({ code: 'between-air-keys' }) : setValue(take, takeId, owner, here.record, value)
}

export const keyAir = <A extends AirName>(take: TakeBody, takeId: string, name: A, frame: number, value: AirValues[A], newId: string): Made =>
  putKey(take, takeId, airKeys(name), frame, value, newId)

/** Drops all keys of haze or focus; with a value it is that from now on for the whole shot, with none it goes as well. */
export function settleAir<A extends AirName>(take: TakeBody, takeId: string, name: A, value: AirValues[A] | null): Made {
  if (!Object.hasOwn(take.air, name)) return missing(name)
  const owner = airKeys(name)
  const held = value === null ? null : owner.kind.held(value)
  if (value !== null && held === null) return refused({ code: 'pose-not-finite' })
  const draft = new Draft(take)
  for (const { record } of placedKeys(take, owner)) {
    if (record.locked) return lockedKey(owner.kind, record.id)
    draft.drop('airKeys', record.id)
  }
  if (held === null) draft.drop('air', name)
  else draft.put('air', recordOf(name, held))
  return made(draft.edit(held === null ? 'air-remove' : 'air-settle', takeRef(takeId)))
}

/** The same, of which nothing is seen. */
function clear(record: AirRecord): AirRecord {
  return record.id === 'haze' ? { ...record, density: 0 } : { ...record, strength: 0 }
}

/** A take that looks as it did and has all haze and focus that others have: clear, where it had none. */
export function withAirOf(take: TakeBody, others: readonly Pick<TakeBody, 'air'>[]): TakeBody {
  const missed = AIR_NAMES.flatMap((name) => (take.air[name] === undefined ? (others.find(({ air }) => air[name] !== undefined)?.air[name] ?? []) : []))
  return missed.length === 0 ? take : { ...take, air: { ...take.air, ...Object.fromEntries(missed.map((record) => [record.id, clear(record)])) } }
}
