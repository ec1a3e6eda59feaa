import { namedDrawings, nextNumber } from '../../document/exposures'
import { levelDrawingIdOf, type LevelDrawing } from '../../document/records'
import type { TakeBody } from '../../document/units'
import type { Draft } from '../change/draft'

const nameRecord = (levelId: string, drawingId: string, name: string): LevelDrawing => ({ id: levelDrawingIdOf(levelId, drawingId), levelId, drawingId, name })

/** Keeps what the drawings of a level are called: numbers that were only counted would be others once one is put before them. */
export function settleNames(draft: Draft<TakeBody>, take: TakeBody, levelId: string): void {
  for (const { drawingId, name, kept } of namedDrawings(take, levelId)) if (!kept) draft.put('levelDrawings', nameRecord(levelId, drawingId, name))
}

/** Gives a level one more drawing, by the name that is asked for or the next free number. */
export function addDrawing(draft: Draft<TakeBody>, take: TakeBody, levelId: string, drawingId: string, name?: string): void {
  settleNames(draft, take, levelId)
  draft.put('levelDrawings', nameRecord(levelId, drawingId, name ?? String(nextNumber(namedDrawings(take, levelId).map((each) => each.name)))))
}

/** The same for another level, where its drawing goes on as another too. */
export function renamedDrawing(named: LevelDrawing, levelId: string, drawings: ReadonlyMap<string, string>): LevelDrawing {
  return nameRecord(levelId, drawings.get(named.drawingId) ?? named.drawingId, named.name)
}

/** Names of drawings go along to another take. Where a level has one of that name there, the one that comes gets the next free number. */
export function carryNames(draft: Draft<TakeBody>, to: TakeBody, from: TakeBody, levels: ReadonlyMap<string, string>, drawingOf: (drawingId: string) => string | null): void {
  const taken = new Map<string, Set<string>>()
  for (const { levelId, drawingId, name } of Object.values(from.levelDrawings)) {
    const [target, drawing] = [levels.get(levelId), drawingOf(drawingId)]
    if (target === undefined || drawing === null) continue
    let names = taken.get(target)
    if (names === undefined) taken.set(target, (names = new Set(namedDrawings(to, target).map((each) => each.name))))
    const given = names.has(name) ? String(nextNumber([...names])) : name
    names.add(given)
    draft.put('levelDrawings', nameRecord(target, drawing, given))
  }
}
