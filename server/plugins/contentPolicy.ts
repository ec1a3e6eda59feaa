import { defineNitroPlugin } from 'nitropack/runtime'
import { isPage, keepShell, withNonce } from '../edge/shell'
import { noSuchAddress } from '../services/refusals'

export default defineNitroPlugin((nitro) => {
  // What no handler takes comes here, `/api/uploads/` too: making a page takes some 60 ms, and nobody asked for one.
  nitro.hooks.hook('render:before', ({ event }) => {
    const path = event.path.split('?')[0]!
    if (!isPage(path) && !path.startsWith('/__nuxt')) throw noSuchAddress(event.method, path)
  })
  nitro.hooks.hook('render:response', (response, { event }) => {
    if (typeof response.body !== 'string') return
    if ((response.statusCode ?? 200) === 200 && event.method === 'GET' && isPage(event.path.split('?')[0]!)) keepShell(response.body)
    const { body, policy } = withNonce(response.body)
    response.body = body
    response.headers = { ...response.headers, 'content-security-policy': policy }
  })
})
