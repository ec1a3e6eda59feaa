import { createHmac, timingSafeEqual } from 'node:crypto'

const LASTS_MS = 30 * 24 * 3600 * 1000
const SECRET_LENGTH = 16
export const COOKIE = 'rubato-pass'

export function isLoopback(host: string): boolean {
  return /^(localhost|127(\.\d+){3}|::1|\[::1\])$/.test(host)
}

/** Whether a page's origin is the address that it asks: the same host and port. */
export function isOwn(origin: string, host: string): boolean {
  try {
    const { protocol, host: from } = new URL(origin)
    // A host without a port has its protocol's, as URL leaves it out.
    return /^https?:$/.test(protocol) && from === new URL(`${protocol}//${host}`).host
  } catch {
    return false
  }
}

/** Why the server must not listen there; null where it may. */
export function startRefusal(host: string, secret: string | undefined): string | null {
  if (secret !== undefined && secret !== '' && secret.length < SECRET_LENGTH) return `RUBATO_SECRET has ${secret.length} characters; it needs at least ${SECRET_LENGTH}.`
  if (isLoopback(host) || secret) return null
  return `Rubato was told to listen on ${host}, where others can reach it. Set RUBATO_SECRET (at least ${SECRET_LENGTH} characters) for them to sign in with, or leave it on 127.0.0.1.`
}

const sign = (secret: string, until: string) => createHmac('sha256', secret).update(`pass until ${until}`).digest('base64url')

/** A pass that this secret, and no other, gave out. */
export function makePass(secret: string, now = Date.now()): string {
  const until = String(now + LASTS_MS)
  return `${until}.${sign(secret, until)}`
}

export function isPass(secret: string, pass: string, now = Date.now()): boolean {
  const [until = '', signature = ''] = pass.split('.')
  if (!(Number(until) > now)) return false
  return sameText(signature, sign(secret, until))
}

/** Takes as long for a near miss as for a far one. */
export function sameText(a: string, b: string): boolean {
  const [x, y] = [a, b].map((text) => createHmac('sha256', 'compare').update(text).digest())
  return timingSafeEqual(x!, y!)
}
