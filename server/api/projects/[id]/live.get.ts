import { createEventStream, defineEventHandler, getQuery, getRequestHeader } from 'h3'
import { presentSchema, PUSH_LIMIT_LETTERS, type JournalEntry } from '#shared/live'
import { subscribe } from '../../../services/live'
import { idParam } from '../../../services/params'
import { beHere, leave } from '../../../services/presence'
import { liveProject } from '../../../services/projects'
import { refuse } from '../../../services/refusals'

const BEAT_MS = 15_000

function pushed(entry: JournalEntry): string {
  const whole = JSON.stringify(entry)
  return whole.length <= PUSH_LIMIT_LETTERS ? whole : JSON.stringify({ ...entry, change: { ...entry.change, edits: [] }, heavy: true })
}

/**
 * `?after=SEQ&session=ID&name=…&shot=…`: server-sent events. `change` carries a journal entry, its id the place in the
 * journal, so that a browser that comes back is given what it missed; `here` carries who has the film open.
 */
export default defineEventHandler(async (event) => {
  const projectId = idParam(event)
  const query = getQuery(event)
  const present = presentSchema.safeParse({ session: query.session, name: String(query.name ?? ''), shotId: query.shot ? String(query.shot) : null })
  if (!present.success) throw refuse(422, 'invalid-request', `${present.error.issues[0]!.path.join('.')}: ${present.error.issues[0]!.message}`)
  const after = Number(getRequestHeader(event, 'last-event-id') ?? query.after ?? 0)
  if (!Number.isSafeInteger(after) || after < 0) throw refuse(422, 'invalid-request', 'after: a whole number, the last journal entry that is known.')
  await liveProject(projectId)
  const stream = createEventStream(event)
  const end = subscribe({
    projectId,
    seq: after,
    onEntry: (entry) => void stream.push({ event: 'change', id: String(entry.seq), data: pushed(entry) }),
    onHere: (list) => void stream.push({ event: 'here', data: JSON.stringify(list) }),
    onEnd: () => void stream.close(),
  })
  const beat = setInterval(() => void stream.push({ event: 'beat', data: '' }), BEAT_MS)
  stream.onClosed(async () => {
    clearInterval(beat)
    end()
    await leave(projectId, present.data.session).catch(() => undefined)
  })
  const sent = stream.send()
  void stream.push({ event: 'open', data: '' })
  await beHere(projectId, present.data).catch(() => undefined)
  return sent
})
