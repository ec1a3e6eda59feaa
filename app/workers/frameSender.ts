import type { FrameTaker } from './making'

async function handIn(url: string, body: ArrayBuffer | null): Promise<void> {
  const response = await fetch(url, { method: 'PUT', body })
  if (response.ok) return
  const said = (await response.json().catch(() => null)) as { message?: string } | null
  throw new Error(said?.message ?? `A frame was not taken (${response.status}).`)
}

/** Hands frames to the worker whose page this is, one after the other; the next is painted meanwhile. */
export function createFrameSender(url: string, { widthPx, heightPx }: { readonly widthPx: number; readonly heightPx: number }): FrameTaker {
  const address = `${url}/frame?width=${widthPx}&height=${heightPx}`
  let sent: Promise<void> = Promise.resolve()
  return {
    async take(_, data) {
      await sent
      sent = handIn(address, data)
      // Told when the next one comes, or at the end.
      sent.catch(() => undefined)
    },
    async finish() {
      await sent
      return { file: new Blob(), codec: null }
    },
    abandon: async () => undefined,
  }
}
