import { recordIn, type Collection } from '../document/collection'
import type { Unit, UnitRef } from '../document/units'
import type { Edit, RecordChange } from './edit'
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

  edit(kind: string, unit: UnitRef): Edit {
    const changes = Object.fromEntries(Object.entries(this.#changes).filter(([, records]) => Object.keys(records).length > 0))
    return { kind, unit, changes }
  }
}

