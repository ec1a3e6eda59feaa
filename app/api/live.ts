import { PRESENCE_EVERY_MS, type JournalEntry, type Present } from '#shared/live'

interface Handlers {
  readonly onEntry: (entry: JournalEntry) => void
  readonly onHere: (present: readonly Present[]) => void
  /** What is said of the film's renders is not true any more. */
  readonly onRenders: () => void
  /** True when the connection stands. */
  readonly onConnected: (connected: boolean) => void
  /** The history is another one: a backup was brought back. */
  readonly onReset: () => void
  /** News came that made no sense. */
  readonly onUnread: (error: Error) => void
  /** What this window says of itself. */
  readonly me: () => Present
}

export interface Live {
  /** Tells the others at once that the artist went elsewhere. */
  moved(): void
  end(): void
}

/** Lost for longer than this, the browser's own way of coming back is not waited for. */
const GIVE_UP_MS = 20_000

/** The film's live connection: what others do comes in as it is accepted, nothing left out after a gap. */
export function openLive(projectId: string, after: () => number, { onEntry, onHere, onRenders, onConnected, onReset, onUnread, me }: Handlers): Live {
  const base = `/api/projects/${projectId}`
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  let ended = false
  let epoch: string | null = null

  const connect = () => {
    clearTimeout(timer)
    source?.close()
    if (ended) return
    const { session, name, shotId } = me()
    const query = new URLSearchParams({ after: String(after()), session, name, ...(shotId === null ? {} : { shot: shotId }) })
    source = new EventSource(`${base}/live?${query}`)
    source.onopen = () => {
      clearTimeout(timer)
      onConnected(true)
    }
    source.onerror = () => {
      onConnected(false)
      clearTimeout(timer)
      timer = setTimeout(connect, source?.readyState === EventSource.CLOSED ? 2000 : GIVE_UP_MS)
    }
    source.addEventListener('open', (event) => {
      const { data } = event as MessageEvent<string | undefined>
      // The connection's own event has the same name, and no data.
      if (data === undefined || data === '') return
      heard(data, (now: string) => {
        if (epoch !== null && epoch !== now) onReset()
        epoch = now
      })
    })
    source.addEventListener('change', ({ data }) => heard(data, (entry: JournalEntry) => onEntry(entry)))
    source.addEventListener('here', ({ data }) => heard(data, (present: Present[]) => onHere(present)))
    source.addEventListener('renders', onRenders)
  }
  /** News that can't be read, or not be taken in, is not passed over: what it was is asked for. */
  function heard<T>(data: string, take: (news: T) => void) {
    try {
      take(JSON.parse(data) as T)
    } catch (error) {
      onUnread(error as Error)
    }
  }
  const sayHere = () => void fetch(`${base}/here`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(me()) }).catch(() => undefined)
  const beat = setInterval(sayHere, PRESENCE_EVERY_MS)
  connect()
  return {
    moved: sayHere,
    end() {
      ended = true
      clearInterval(beat)
      clearTimeout(timer)
      source?.close()
    },
  }
}
