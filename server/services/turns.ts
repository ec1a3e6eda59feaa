import { refuse } from './refusals'

/**
 * Work waits in memory before it takes a connection: what one film does comes one after the other, and all films together
 * leave some connections to those who only read.
 */
const MOST_WRITING = 6
const MOST_WAITING = 200
const RETRY_SECONDS = 5

interface Film {
  busy: boolean
  readonly waiting: (() => void)[]
}
const films = new Map<string, Film>()
let writing = 0
/** Films whose next work could begin, in the order in which they came to want it: none waits for another's queue. */
const ready: (() => void)[] = []

export async function inFilmTurn<T>(projectId: string, work: () => Promise<T>): Promise<T> {
  const film = films.get(projectId) ?? { busy: false, waiting: [] }
  films.set(projectId, film)
  if (film.waiting.length >= MOST_WAITING) throw refuse(503, 'busy', `Too much is being done to this film at once. Try again in ${RETRY_SECONDS} seconds.`, { retryAfter: RETRY_SECONDS })
  if (film.busy) await new Promise<void>((go) => film.waiting.push(go))
  film.busy = true
  try {
    if (writing >= MOST_WRITING) await new Promise<void>((go) => ready.push(go))
    else writing++
    try {
      return await work()
    } finally {
      const other = ready.shift()
      if (other === undefined) writing--
      else other()
    }
  } finally {
    const next = film.waiting.shift()
    if (next !== undefined) next()
    else films.delete(projectId)
  }
}
