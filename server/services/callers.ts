import type { H3Event } from 'h3'

/** Raised when whoever asked has left before the answer was whole. */
export function leaving(event: H3Event): AbortSignal {
  const control = new AbortController()
  const { res } = event.node
  res.once('close', () => {
    if (!res.writableFinished) control.abort()
  })
  return control.signal
}
