import { createEventStream, defineEventHandler, getQuery, getRequestHeader } from 'h3'
import { presentSchema, PUSH_LIMIT_LETTERS, type JournalEntry } from '#shared/live'
import { epoch } from '../../../services/journal'
import { subscribe } from '../../../services/live'
import { idParam } from '../../../services/params'
import { beHere, leave } from '../../../services/presence'
import { liveProject } from '../../../services/projects'
import { refuse } from '../../../services/refusals'

const BEAT_MS = 15_000

/** What a window that does not read may leave lying here, bytes. It is let go then, and may come back for what it missed. */
const MOST_UNREAD = 4 * 1024 * 1024
const texts = new WeakMap<JournalEntry, string>()

/** Written once for all windows. */
function pushed(entry: JournalEntry): string {
  const known = texts.get(entry)
  if (known !== undefined) return known
  const text = written(entry)
  texts.set(entry, text)
  return text
}

function written(entry: JournalEntry): string {
  const whole = JSON.stringify(entry)
  return whole.length <= PUSH_LIMIT_LETTERS ? whole : JSON.stringify({ ...entry, change: { ...entry.change, edits: [] }, heavy: true })
}

/**
 * `?after=SEQ&session=ID&name=…&shot=…`: server-sent events. `change` carries a journal entry, its id the place in the
 * journal, so that a browser that comes back is given what it missed; `here` carries who has the film open; after `renders` they are to be asked for again.
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
  const { res } = event.node
  let unread = 0
  const give = (message: { event: string; id?: string; data: string }) => {
    unread += message.data.length
    void stream.push(message).finally(() => (unread -= message.data.length)).catch(() => undefined)
    if (unread + res.writableLength > MOST_UNREAD) res.destroy()
  }
  const end = subscribe({
    projectId,
    seq: after,
    onEntry: (entry) => give({ event: 'change', id: String(entry.seq), data: pushed(entry) }),
    onHere: (list) => give({ event: 'here', data: JSON.stringify(list) }),
    onRenders: () => give({ event: 'renders', data: '' }),
    onEnd: () => void stream.close(),
  })
  const beat = setInterval(() => give({ event: 'beat', data: '' }), BEAT_MS)
  stream.onClosed(async () => {
    clearInterval(beat)
    end()
    await leave(projectId, present.data.session).catch(() => undefined)
  })
  const sent = stream.send()
  give({ event: 'open', data: JSON.stringify(await epoch()) })
  await beHere(projectId, present.data).catch(() => undefined)
  return sent
})
