import { inOrder } from '../../document/order'
import type { Take } from '../../document/records'
import { outlineRef, type Film, type Outline } from '../../document/units'
import { Draft } from '../change/draft'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { copyArt, copiedTake, wholeTake } from './copyArt'

const missing = (id: string) => refused({ code: 'missing', what: 'take', id })

const takeOrders = new WeakMap<Outline['takes'], ReadonlyMap<string, readonly Take[]>>()

/** A shot's takes in order, found once for each frozen collection. */
export function takesOfShot(outline: Outline, shotId: string): readonly Take[] {
  const known = takeOrders.get(outline.takes)
  if (known !== undefined) return known.get(shotId) ?? []
  const found = new Map<string, Take[]>()
  for (const take of inOrder(outline.takes)) found.set(take.shotId, [...(found.get(take.shotId) ?? []), take])
  takeOrders.set(outline.takes, found)
  return found.get(shotId) ?? []
}

/** A, B … Z, AA, AB … */
function letterOfNumber(number: number): string {
  return number < 26 ? String.fromCharCode(65 + number) : letterOfNumber(Math.floor(number / 26) - 1) + letterOfNumber(number % 26)
}

/** A copy of a take of its own art, after the others of its shot, circled: what is worked on is what the film shows. */
export function addTake(film: Film, projectId: string, takeId: string, newId: NewIds): Made {
  const { outline } = film
  const [take, body] = [outline.takes[takeId], film.takes[takeId]]
  if (take === undefined || body === undefined) return missing(takeId)
  const id = newId()
  const art = copyArt(film, body, null, newId)
  if (typeof art === 'string') return refused({ code: 'missing', what: 'drawing', id: art })
  const there = takesOfShot(outline, take.shotId)
  const letters = new Set(there.map(({ letter }) => letter))
  let number = there.length
  while (letters.has(letterOfNumber(number))) number++
  const draft = new Draft(outline)
  const [order] = draft.room('takes', there, there.length, 1)
  draft.put('takes', { id, shotId: take.shotId, order: order!, letter: letterOfNumber(number) })
  circleIn(draft, outline, take.shotId, id, new Set(Object.keys(body.panels)))
  return made(draft.edit('take-add', outlineRef(projectId)), wholeTake(copiedTake(body, art.names), id, 'take-add'), ...art.edits)
}

/** A name of nothing but space is none. */
export function renameTake(outline: Outline, projectId: string, takeId: string, name: string): Made {
  const take = outline.takes[takeId]
  if (take === undefined) return missing(takeId)
  const { name: _, ...plain } = take
  return made(new Draft(outline).put('takes', name.trim() === '' ? plain : { ...plain, name: name.trim() }).edit('take-name', outlineRef(projectId)))
}

/** The film shows this take from now on, and boards, script and prints go by it. */
export function circleTake(film: Film, projectId: string, takeId: string): Made {
  const take = film.outline.takes[takeId]
  const body = film.takes[takeId]
  if (take === undefined || body === undefined || film.outline.shots[take.shotId] === undefined) return missing(takeId)
  const draft = new Draft(film.outline)
  circleIn(draft, film.outline, take.shotId, takeId, new Set(Object.keys(body.panels)))
  return made(draft.edit('take-circle', outlineRef(projectId)))
}

/** Takes a take out; of the circled one the circle goes to its neighbour. The last stays. Its body stays with the server until nothing, undo included, needs it. */
export function removeTake(film: Film, projectId: string, takeId: string): Made {
  const { outline } = film
  const take = outline.takes[takeId]
  const shot = take === undefined ? undefined : outline.shots[take.shotId]
  if (take === undefined || shot === undefined) return missing(takeId)
  const there = takesOfShot(outline, shot.id)
  if (there.length === 1) return refused({ code: 'last-take' })
  const draft = new Draft(outline).drop('takes', takeId)
  const at = there.indexOf(take)
  const next = shot.circledTakeId === takeId ? (there[at - 1] ?? there[at + 1]!) : null
  const panels = next === null ? null : film.takes[next.id]?.panels
  if (panels === undefined) return missing(next!.id)
  if (next !== null) circleIn(draft, outline, shot.id, next.id, new Set(Object.keys(panels!)))
  for (const link of Object.values(outline.links)) if (link.takeId === takeId && (panels === null || panels[link.panelId] === undefined)) draft.drop('links', link.id)
  return made(draft.edit('take-remove', outlineRef(projectId)))
}

/** The script's links go along to the panels that both takes have; a panel has one link to a passage, whatever the take. */
function circleIn(draft: Draft<Outline>, outline: Outline, shotId: string, takeId: string, panels: ReadonlySet<string>): void {
  draft.put('shots', { ...outline.shots[shotId]!, circledTakeId: takeId })
  for (const link of Object.values(outline.links)) {
    if (link.takeId !== takeId && panels.has(link.panelId) && outline.takes[link.takeId]?.shotId === shotId) draft.put('links', { ...link, takeId })
  }
}
