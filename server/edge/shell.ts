import { randomBytes } from 'node:crypto'
import { contentPolicy } from './headers'

let shell: string | null = null

/** The page is the same whatever its address: it is rendered once, which takes the renderer some 80 ms. */
export function keepShell(html: string): void {
  if (!import.meta.dev) shell ??= html
}

/** Whether an address is the page's: not the server's own, and not a file's. */
export const isPage = (path: string): boolean => !/^\/api(\/|$)/.test(path) && !path.startsWith('/_') && !/\.[a-z0-9]+$/i.test(path)

export const keptShell = (): string | null => shell

/** Every page answer has a nonce of its own: no script and no style runs that the server did not put there. */
export function withNonce(html: string): { readonly body: string; readonly policy: string } {
  const nonce = randomBytes(16).toString('base64')
  const body = html.replace(/<(script|style)(?=[\s>])/g, `<$1 nonce="${nonce}"`).replace('<head>', `<head><meta property="csp-nonce" nonce="${nonce}">`)
  return { body, policy: contentPolicy(nonce) }
}
