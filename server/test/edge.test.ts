import { spawnSync } from 'node:child_process'
import { request } from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createServerProcess, NEW_PROJECT, startTestServer, type TestServer } from './testServer'

const SECRET = 'the secret of the tests'

/** A request whose Host the test chooses, which fetch does not allow. */
function statusFor(address: string, host: string): Promise<number> {
  return new Promise((resolve, reject) => {
    request(`${address}/api/projects`, { headers: { host } }, (response) => {
      response.resume()
      resolve(response.statusCode ?? 0)
    })
      .on('error', reject)
      .end()
  })
}

describe('the edge of the server', () => {
  let server: TestServer
  beforeAll(async () => {
    server = await startTestServer()
  })
  afterAll(() => server.stop())

  it('puts the security headers on pages, files, answers and refusals', async () => {
    const page = await server.ask('/')
    const file = /src="(\/_nuxt\/[^"]+\.js)"/.exec(page.body)![1]!
    for (const path of ['/', file, '/mark.svg', '/api/projects', '/api/projects/none']) {
      const { headers } = await server.ask(path)
      expect(headers.get('content-security-policy'), path).toMatch(/default-src 'self'.*script-src 'self'.*frame-ancestors 'none'/)
      expect(headers.get('content-security-policy'), path).not.toContain('unsafe')
      expect(headers.get('x-content-type-options'), path).toBe('nosniff')
      expect(headers.get('cross-origin-embedder-policy'), path).toBe('require-corp')
      expect(headers.get('referrer-policy'), path).toBe('no-referrer')
    }
  })

  it('gives every page answer a nonce of its own, on every script in it', async () => {
    const [a, b] = [await server.ask('/'), await server.ask('/')]
    const nonce = /'nonce-([^']+)'/.exec(a.headers.get('content-security-policy')!)![1]!
    expect(b.headers.get('content-security-policy')).not.toContain(nonce)
    const scripts = [...(a.body as string).matchAll(/<(script|style)[^>]*>/g)].map((found) => found[0])
    expect(scripts.length).toBeGreaterThan(1)
    for (const tag of scripts) expect(tag).toContain(`nonce="${nonce}"`)
  })

  it('makes no page of what is not one: there is nothing there', async () => {
    for (const path of ['/api', '/api/', '/api/nothing', '/api/uploads/', '/api/pictures/?side=1', '/api/projects/x/known', '/missing.png']) {
      const { status, body, headers } = await server.ask(path)
      expect([status, headers.get('content-type')?.includes('json'), body.data?.code], path).toEqual([404, true, 'no-such-address'])
    }
    for (const path of ['/', '/film/anything', '/film/anything?view=boards']) expect((await server.ask(path)).headers.get('content-type'), path).toContain('text/html')
  })

  it('answers to localhost only, and to its own pages only', async () => {
    expect(await statusFor(server.address, 'rubato.example.org')).toBe(403)
    expect(await statusFor(server.address, 'localhost:3400')).toBe(200)
    const other = await server.ask('/api/projects', { method: 'POST', headers: { 'sec-fetch-site': 'cross-site' }, body: JSON.stringify(NEW_PROJECT) })
    expect(other.status).toBe(403)
    expect(other.body.data.code).toBe('other-site')
  })

  it('names the request in a refusal, and tells its parts in the health check', async () => {
    const { body, headers } = await server.ask('/api/projects/none')
    expect(body.request).toBe(headers.get('x-request-id'))
    expect((await server.ask('/api/health')).body).toMatchObject({ ok: true, server: 'ok', database: 'ok', storage: 'ok' })
  })

  it('off loopback does not start without a secret', () => {
    const { status, stderr } = spawnSync(process.execPath, ['.output/server/index.mjs'], {
      env: { ...process.env, HOST: '0.0.0.0', PORT: '0', RUBATO_DATABASE_URL: server.databaseUrl, RUBATO_SECRET: '' },
      encoding: 'utf8',
      timeout: 20_000,
    })
    expect(status).not.toBe(0)
    expect(stderr).toContain('RUBATO_SECRET')
  })

  it('with a secret lets in who has it', async () => {
    const guarded = await createServerProcess({ RUBATO_DATABASE_URL: server.databaseUrl, RUBATO_STORAGE_DIR: server.storage, RUBATO_SECRET: SECRET })
    await guarded.start()
    try {
      const ask = (path: string, init?: RequestInit) => fetch(guarded.address + path, init)
      expect((await ask('/api/projects')).status).toBe(401)
      expect((await ask('/api/health')).status).toBe(200)
      const wrong = await ask('/api/sign-in', { method: 'POST', body: JSON.stringify({ secret: 'a guess' }) })
      expect(wrong.status).toBe(401)
      const right = await ask('/api/sign-in', { method: 'POST', body: JSON.stringify({ secret: SECRET }) })
      expect(right.status).toBe(204)
      const cookie = right.headers.get('set-cookie')!
      expect(cookie).toMatch(/HttpOnly/)
      expect(cookie).toMatch(/SameSite=Strict/)
      expect((await ask('/api/projects', { headers: { cookie: cookie.split(';')[0]! } })).status).toBe(200)
      expect((await ask('/api/projects', { headers: { cookie: 'rubato-pass=9999999999999.forged' } })).status).toBe(401)
    } finally {
      await guarded.stop()
    }
  })

  it('tells callers that ask too often to wait', async () => {
    const limited = await createServerProcess({ RUBATO_DATABASE_URL: server.databaseUrl, RUBATO_STORAGE_DIR: server.storage, RUBATO_REQUESTS_PER_MINUTE: '60' })
    await limited.start()
    try {
      const answers = await Promise.all(Array.from({ length: 80 }, () => fetch(`${limited.address}/api/projects`)))
      const refused = answers.filter((answer) => answer.status === 429)
      expect(refused.length).toBeGreaterThan(10)
      expect(Number(refused[0]!.headers.get('retry-after'))).toBeGreaterThanOrEqual(1)
    } finally {
      await limited.stop()
    }
  })
})
