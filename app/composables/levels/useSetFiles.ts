import { setDrawings, type Drawing } from '@rubato/core/document'
import { bringSet } from '@rubato/core/edits'
import { SET_FILE_EXTENSION } from '@rubato/core/interchange'
import { onScopeDispose, shallowRef } from 'vue'
import { api, pictureBase } from '~/api/client'
import { uploadFile } from '~/api/upload'
import { setFileJobs } from '~/clients/setFileJobs'
import { useSets } from '~/composables/levels/useSets'
import { useFilmStore } from '~/stores/film'
import { useSetsStore } from '~/stores/sets'
import type { StoredAsset } from '#shared/assets'

/** Sets saved as one file each, and brought in from such files, with progress and a Cancel. */
export function useSetFiles() {
  const film = useFilmStore()
  const store = useSetsStore()
  const sets = useSets()
  /** Null while nothing is going on; `share` null where it can't be told. */
  const state = shallowRef<{ readonly text: string; readonly share: number | null } | null>(null)
  let gate = new AbortController()

  function begin(text: string): AbortSignal {
    gate.abort()
    gate = new AbortController()
    state.value = { text, share: null }
    return gate.signal
  }

  async function save(setId: string) {
    const name = film.outline.sets[setId]
    if (name === undefined) return
    const signal = begin(`Saving “${name.name}”…`)
    try {
      if (!(await sets.load(setId))) return
      const set = film.film.sets![setId]!
      const drawings = Object.fromEntries(setDrawings(set).map((id): [string, Drawing] => [id, film.drawingOf(id)!]))
      const file = { name: name.name, stands: { ...name.stands }, metresPerFw: film.project?.metresPerFw ?? null, set, drawings }
      const progress = ({ done, total }: { done: number; total: number }) => (state.value = { text: `Saving “${name.name}”: picture ${done + 1} of ${total}`, share: done / total })
      const made = await setFileJobs.run({ kind: 'write', file, pictureBase: pictureBase() }, { signal, progress })
      if (made.kind !== 'written') return
      const url = URL.createObjectURL(made.blob)
      const link = document.createElement('a')
      link.href = url
      link.download = `${name.name.replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'set'}.${SET_FILE_EXTENSION}`
      link.click()
      setTimeout(() => URL.revokeObjectURL(url), 60_000)
    } catch (error) {
      if (!signal.aborted) film.refuse(`“${name.name}” could not be saved as a file. ${(error as Error).message}`)
    } finally {
      if (!signal.aborted) state.value = null
    }
  }

  async function bring(file: File) {
    const projectId = film.projectId
    if (projectId === null) return
    const signal = begin(`Reading “${file.name}”…`)
    const fresh: StoredAsset[] = []
    try {
      const made = await setFileJobs.run({ kind: 'read', file }, { signal })
      if (made.kind !== 'read') return
      for (const [i, { hash, blob }] of made.pictures.entries()) {
        const told = (share: number) => (state.value = { text: `Bringing in “${made.file.name}”: picture ${i + 1} of ${made.pictures.length}`, share: (i + share) / made.pictures.length })
        told(0)
        const stored = await uploadFile(blob, 'picture', told, signal)
        if (stored.fresh) fresh.push(stored)
        if (stored.hash !== hash) throw new Error(`A picture in it is not what its name says (${hash.slice(0, 12)}…).`)
      }
      if (film.projectId !== projectId) return
      const id = crypto.randomUUID()
      if (!film.perform(`bring in ${made.file.name}`, (f) => bringSet(f.outline, projectId, made.file, id, () => crypto.randomUUID()))) throw new Error('The film did not take it.')
      store.shownId = id
    } catch (error) {
      void api.forgetUnused(fresh).catch(() => undefined)
      if (!signal.aborted) film.refuse(`“${file.name}” was not brought in. ${(error as Error).message}`)
    } finally {
      if (!signal.aborted) state.value = null
    }
  }

  function cancel() {
    gate.abort(new Error('Cancelled.'))
    state.value = null
  }
  onScopeDispose(cancel)
  return { state, save, bring, cancel }
}
