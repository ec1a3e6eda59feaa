import { onScopeDispose, shallowRef } from 'vue'
import type { ProjectCard } from '#shared/projects'

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
  function takeIn(file: File): Promise<ProjectCard | null> {
    stop?.()
    return new Promise((resolve) => {
      // Only this tells how much of a body has gone out.
      const request = new XMLHttpRequest()
      stop = () => request.abort()
      const fail = (why: string) => {
        state.value = { text: `“${file.name}” was not taken in. ${why}`, share: null, busy: false }
        resolve(null)
      }
      request.open('POST', '/api/archives')
      request.responseType = 'json'
      request.upload.onprogress = ({ loaded, total }) =>
        (state.value = { text: loaded < total ? `Sending “${file.name}”: ${megabytes(loaded)} of ${megabytes(total)}` : `Reading “${file.name}”…`, share: loaded < total ? loaded / total : null, busy: true })
      request.onload = () => {
        const answer = request.response as (ProjectCard & { message?: string }) | null
        if (request.status !== 200 || answer === null) return fail(answer?.message ?? `The server answered ${request.status}.`)
        state.value = { text: `“${answer.project.title}” is on the desk.`, share: null, busy: false }
        resolve(answer)
      }
      request.onerror = () => fail('The connection was lost. Try again.')
      request.onabort = () => {
        state.value = null
        resolve(null)
      }
      state.value = { text: `Sending “${file.name}”…`, share: 0, busy: true }
      request.send(file)
    })
  }

  function dismiss() {
    if (state.value?.busy) stop?.()
    else state.value = null
  }
  onScopeDispose(() => stop?.())
  return { state, save, takeIn, dismiss }
}
