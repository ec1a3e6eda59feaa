import { describe, expect, it, vi } from 'vitest'
import { isLoopback, isPass, makePass, startRefusal } from './access'
import { contentPolicy } from './headers'
import { createLimiter } from './limits'
import { routeOf } from './log'

const SECRET = 'a secret that is long enough'

describe('the edge', () => {
  it('listens on loopback without a secret, elsewhere only with one that is long enough', () => {
    for (const host of ['127.0.0.1', 'localhost', '::1', '127.8.8.8']) expect(startRefusal(host, undefined)).toBeNull()
    expect(startRefusal('0.0.0.0', undefined)).toMatch('RUBATO_SECRET')
    expect(startRefusal('0.0.0.0', '')).toMatch('RUBATO_SECRET')
    expect(startRefusal('0.0.0.0', 'short')).toMatch('5 characters')
    expect(startRefusal('0.0.0.0', SECRET)).toBeNull()
    expect(isLoopback('127.0.0.1.example.org')).toBe(false)
  })

  it('takes a pass of its own secret until it runs out, and no other', () => {
    const pass = makePass(SECRET, 0)
    expect(isPass(SECRET, pass, 1000)).toBe(true)
    expect(isPass(SECRET, pass, 31 * 24 * 3600 * 1000)).toBe(false)
    expect(isPass('another secret, long enough', pass, 1000)).toBe(false)
    const [, signature] = pass.split('.')
    expect(isPass(SECRET, `9999999999999.${signature}`, 1000)).toBe(false)
    for (const bad of ['', '.', 'x.y', `${pass}x`]) expect(isPass(SECRET, bad, 1000)).toBe(false)
  })

  it('lets a caller through as often as it may, then says how long to wait, and forgets no one else', async () => {
    vi.useFakeTimers()
    const limiter = createLimiter(60)
    for (let i = 0; i < 60; i++) expect(await limiter.take('a')).toBe(0)
    await vi.advanceTimersByTimeAsync(20_000)
    expect(await limiter.take('a')).toBe(40)
    expect(await limiter.take('b')).toBe(0)
    await vi.advanceTimersByTimeAsync(40_001)
    expect(await limiter.take('a')).toBe(0)
    vi.useRealTimers()
  })

  it('logs a route and nothing that was put into it', () => {
    expect(routeOf('/api/projects/salt-lantern/takes?ids=a,b')).toBe('/api/projects/:id/takes')
    expect(routeOf('/api/pictures/0123')).toBe('/api/pictures/:id')
    expect(routeOf('/api/my secret title')).toBe('/api/:id')
  })

  it('lets no script run that has not the answer’s nonce', () => {
    const policy = contentPolicy('abc')
    expect(policy).toContain("script-src 'self' 'nonce-abc';")
    expect(policy).not.toContain('unsafe')
    expect(contentPolicy(null)).toContain("script-src 'self';")
  })
})
