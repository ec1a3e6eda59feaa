import { shorten } from '../../document/text'
import type { Level } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

const groupOf = (level: Level): string => level.group ?? ''

/** Puts levels into a group, or out of any (empty name). A group is there as long as it has levels. */
export function groupLevels(take: TakeBody, takeId: string, levelIds: readonly string[], group: string): Made {
  const draft = new Draft(take)
  for (const id of levelIds) {
    const level = take.levels[id]
    if (level === undefined) return refused({ code: 'missing', what: 'level', id })
    if (groupOf(level) === group) continue
    const { group: _old, ...rest } = level
    draft.put('levels', group === '' ? rest : { ...rest, group })
  }
  return made(draft.edit('levels-group', takeRef(takeId)))
}

/** Gives a group another name; an empty one dissolves it. */
export function renameGroup(take: TakeBody, takeId: string, from: string, to: string): Made {
  const members = Object.values(take.levels).filter((level) => groupOf(level) === from)
  return groupLevels(take, takeId, members.map((level) => level.id), shorten(to.trim(), 120))
}
