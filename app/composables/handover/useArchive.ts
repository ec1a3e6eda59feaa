import { onScopeDispose, shallowRef } from 'vue'
import type { ProjectCard } from '#shared/projects'
import { Refused } from '~/api/client'
import { uploadArchive } from '~/api/upload'
import { ask } from '~/stores/question'

interface ArchiveState {
  readonly text: string
  /** 0…1; null where it can't be told. */
  readonly share: number | null
  readonly busy: boolean
}

const megabytes = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`

/** A film out to one file and in from one, with progress and a Cancel. */
export function useArchive() {
  const state = shallowRef<ArchiveState | null>(null)
  let stop: (() => void) | null = null

  async function save({ project, bytes }: ProjectCard) {
    stop?.()
    const gate = new AbortController()
    stop = () => gate.abort()
    state.value = { text: `Saving “${project.title}”…`, share: null, busy: true }
    try {
      const response = await fetch(`/api/projects/${project.id}/archive`, { signal: gate.signal })
      if (!response.ok || response.body === null) throw new Error(((await response.json().catch(() => null)) as { message?: string } | null)?.message ?? `The server answered ${response.status}.`)
      const parts: Blob[] = []
      let received = 0
      for (const reader = response.body.getReader(); ; ) {
        const { done, value } = await reader.read()
        if (done) break
        // A blob may be kept on disk; an array may not.
        parts.push(new Blob([value]))
        received += value.length
        state.value = { text: `Saving “${project.title}”: ${megabytes(received)}`, share: bytes > received ? received / bytes : null, busy: true }
      }
      const url = URL.createObjectURL(new Blob(parts, { type: 'application/zip' }))
      const link = document.createElement('a')
      link.href = url
      link.download = `${project.title.replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'film'}.rubato`
      link.click()
      setTimeout(() => URL.revokeObjectURL(url), 60_000)
      state.value = { text: `Saved “${link.download}”, ${megabytes(received)}.`, share: null, busy: false }
    } catch (error) {
      state.value = gate.signal.aborted ? null : { text: `“${project.title}” could not be saved as a file. ${(error as Error).message}`, share: null, busy: false }
    }
  }

  /** The film taken in; null where it was cancelled or refused, and the reason is shown. */
  async function takeIn(file: File): Promise<ProjectCard | null> {
    stop?.()
    const gate = new AbortController()
    stop = () => gate.abort()
    const send = (incomplete: boolean) => {
      state.value = { text: `Sending “${file.name}”…`, share: 0, busy: true }
      const progress = (share: number) => (state.value = { text: share < 1 ? `Sending “${file.name}”: ${megabytes(share * file.size)} of ${megabytes(file.size)}` : `Reading “${file.name}”…`, share: share < 1 ? share : null, busy: true })
      return uploadArchive(file, incomplete, progress, gate.signal)
    }
    try {
      const card = await send(false).catch(async (error: unknown) => {
        if (!(error instanceof Refused) || error.data.code !== 'incomplete-archive') throw error
        if (await ask({ title: 'Something is missing in this file', text: error.message, yes: 'Take in what is there', no: 'Leave it' })) return send(true)
        throw error
      })
      state.value = { text: `“${card.project.title}” is on the desk.`, share: null, busy: false }
      return card
    } catch (error) {
      state.value = gate.signal.aborted ? null : { text: `“${file.name}” was not taken in. ${(error as Error).message}`, share: null, busy: false }
      return null
    }
  }

  function dismiss() {
    if (state.value?.busy) stop?.()
    else state.value = null
  }
  onScopeDispose(() => stop?.())
  return { state, save, takeIn, dismiss }
}
