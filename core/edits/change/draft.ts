import { recordIn, type Collection } from '../../document/collection'
import { outlineRef, type Unit, type UnitRef } from '../../document/units'
import { roomAt, type Ordered } from '../../document/order'
import { applyToUnit, type Edit, type RecordChange } from './edit'
import { sameJson } from './sameJson'

/** A record with fields changed; one that is undefined is left out, as JSON leaves it. */
export function withFields<R extends object>(record: R, fields: Partial<NoInfer<R>>): R {
  return Object.fromEntries(Object.entries({ ...record, ...fields }).filter(([, value]) => value !== undefined)) as R
}

type Collections<U extends Unit> = { [C in keyof U & string]: U[C] extends readonly (infer R)[] ? R : U[C] extends Readonly<Record<string, infer R>> ? R : never }

/** Collects what an edit of one unit puts and drops, against the unit as it stands. */
export class Draft<U extends Unit> {
  readonly #unit: U
  readonly #changes: Record<string, Record<string, RecordChange>> = {}

  constructor(unit: U) {
    this.#unit = unit
  }

  put<C extends keyof U & string>(collection: C, record: Collections<U>[C] & { readonly id: string }): this {
    return this.#set(collection, record.id, record)
  }

  drop<C extends keyof U & string>(collection: C, id: string): this {
    return this.#set(collection, id, null)
  }

  #set(collection: keyof U & string, id: string, after: object | null): this {
    const before = recordIn(this.#unit[collection] as Collection, id)
    const into = (this.#changes[collection] ??= {})
    if (sameJson(before, after)) delete into[id]
    else into[id] = { before, after }
    return this
  }

  /** Keys for `count` records at `index` of a sorted collection. Those around that have to make room are put. */
  room<C extends keyof U & string>(collection: C, sorted: readonly (Collections<U>[C] & Ordered)[], index: number, count: number): readonly string[] {
    const { orders, moved } = roomAt(sorted, index, count)
    for (const record of moved) this.put(collection, record)
    return orders
  }

  /** The record as it is so far. */
  now<C extends keyof U & string>(collection: C, id: string): Collections<U>[C] | null {
    const change = this.#changes[collection]?.[id]
    return (change === undefined ? recordIn(this.#unit[collection] as Collection, id) : change.after) as Collections<U>[C] | null
  }

  /** The unit as it is so far. */
  value(): U {
    const applied = applyToUnit(this.#unit, this.edit('draft', outlineRef('draft')))
    if (!applied.ok) throw new Error(`Draft: ${applied.refusal.code} at ${applied.refusal.path.join('.')}`)
    return applied.value
  }

  edit(kind: string, unit: UnitRef): Edit {
    const changes = Object.fromEntries(Object.entries(this.#changes).filter(([, records]) => Object.keys(records).length > 0))
    return { kind, unit, changes }
  }
}

