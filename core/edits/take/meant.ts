import type { Meant } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

/** Accepts what a check has found, until it is about something else; without `about`, for good. */
export function meanSo(take: TakeBody, takeId: string, { id, note, about }: { readonly id: string; readonly note: string; readonly about?: string | undefined }): Made {
  return made(new Draft(take).put('meant', withFields<Meant>({ id, note }, { about })).edit('meant-so', takeRef(takeId)))
}

/** The note by which something that a check has found is accepted, as long as it is about the same; null where it is not. */
export function meantNote({ meant }: Pick<TakeBody, 'meant'>, id: string, about: string): string | null {
  const own = Object.hasOwn(meant, id) ? meant[id]! : null
  return own !== null && (own.about === undefined || own.about === about) ? own.note : null
}

/** It speaks again. */
export function meanNoMore(take: TakeBody, takeId: string, id: string): Made {
  if (!Object.hasOwn(take.meant, id)) return refused({ code: 'missing', what: 'finding', id })
  return made(new Draft(take).drop('meant', id).edit('meant-no-more', takeRef(takeId)))
}
