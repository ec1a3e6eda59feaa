import { setsIn, unfolded, type Drawing, type SetBody } from '@rubato/core/document'
import type { LoadedDrawing, LoadedSet, LoadedTake } from '#shared/projects'

const DRAWINGS_AT_ONCE = 150

/** Reads takes from the server as they are seen, with their sets unfolded, and the drawings that they show. `base` is the film's address. */
export function createTakeReader(base: string) {
  const sets = new Map<string, SetBody>()
  const get = async <T>(path: string): Promise<T> => {
    const response = await fetch(`${base}${path}`)
    if (!response.ok) throw new Error(`The server answered ${response.status}. Try again.`)
    return (await response.json()) as T
  }
  async function takes(ids: readonly string[]): Promise<ReadonlyMap<string, LoadedTake>> {
    const found = await get<LoadedTake[]>(`/takes?ids=${ids.join()}`)
    const wanted = [...new Set(found.flatMap(({ body }) => setsIn(body).map(({ setId }) => setId)))].filter((id) => !sets.has(id))
    if (wanted.length > 0) for (const { id, body } of await get<LoadedSet[]>(`/sets?ids=${wanted.join()}`)) sets.set(id, body)
    return new Map(found.map((take) => [take.id, { ...take, body: unfolded(take.body, (id) => sets.get(id) ?? null) }]))
  }
  async function drawings(ids: readonly string[], put: (id: string, drawing: Drawing) => void): Promise<void> {
    for (let at = 0; at < ids.length; at += DRAWINGS_AT_ONCE) for (const { id, drawing } of await get<LoadedDrawing[]>(`/drawings?ids=${ids.slice(at, at + DRAWINGS_AT_ONCE).join()}`)) put(id, drawing)
  }
  return { takes, drawings }
}
