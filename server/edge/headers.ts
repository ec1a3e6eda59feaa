/** On every answer, pages and files alike. */
export const SECURITY_HEADERS: Readonly<Record<string, string>> = Object.freeze({
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'X-Frame-Options': 'DENY',
  'Referrer-Policy': 'no-referrer',
  'Permissions-Policy': 'camera=(), geolocation=(), microphone=(self), payment=(), usb=()',
})

/** A style element with nothing in it, which charts put their rules into. */
const EMPTY_STYLE = "'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='"

/** What a page may load: its own files, and what it makes itself. Answers that are no page get no nonce, and run nothing. */
export function contentPolicy(nonce: string | null): string {
  const own = nonce === null ? "'self'" : `'self' 'nonce-${nonce}'`
  return [
    "default-src 'self'",
    `script-src ${own}`,
    `style-src ${own} ${EMPTY_STYLE}`,
    "img-src 'self' blob: data:",
    "media-src 'self' blob:",
    "font-src 'self' data:",
    "connect-src 'self' blob:",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ')
}
