import { defineNitroPlugin } from 'nitropack/runtime'
import { isPage, keepShell, withNonce } from '../edge/shell'

export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:response', (response, { event }) => {
    if (typeof response.body !== 'string') return
    if ((response.statusCode ?? 200) === 200 && event.method === 'GET' && isPage(event.path.split('?')[0]!)) keepShell(response.body)
    const { body, policy } = withNonce(response.body)
    response.body = body
    response.headers = { ...response.headers, 'content-security-policy': policy }
  })
})
