import { randomBytes } from 'node:crypto'
import { defineNitroPlugin } from 'nitropack/runtime'
import { contentPolicy } from '../edge/headers'

/** Every page answer has a nonce of its own: no script and no style runs that the server did not put there. */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:response', (response) => {
    if (typeof response.body !== 'string') return
    const nonce = randomBytes(16).toString('base64')
    response.body = response.body
      .replace(/<(script|style)(?=[\s>])/g, `<$1 nonce="${nonce}"`)
      .replace('<head>', `<head><meta property="csp-nonce" nonce="${nonce}">`)
    response.headers = { ...response.headers, 'content-security-policy': contentPolicy(nonce) }
  })
})
