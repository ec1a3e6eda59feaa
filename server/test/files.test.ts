import { zipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startWatchedServer, type WatchedServer } from './watched'

const MOST_HELD_MS = 50
const svg = (inside: string, attributes = 'width="40" height="30"') => Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" ${attributes}>${inside}</svg>`)
const rect = '<rect width="20" height="30" fill="#2a6a99"/>'

describe('a file that is hostile, or merely unlucky', () => {
  let server: WatchedServer
  let png: Buffer
  let jpeg: Buffer
  beforeAll(async () => {
    server = await startWatchedServer({ RUBATO_SEED: 'none', RUBATO_FILE_JOB_MB: '700' })
    png = await sharp({ create: { width: 64, height: 40, channels: 3, background: '#2a6a99' } }).png().toBuffer()
    const noise = Buffer.alloc(300 * 200 * 3)
    for (let i = 0; i < noise.length; i++) noise[i] = (i * 7919) % 256
    jpeg = await sharp(noise, { raw: { width: 300, height: 200, channels: 3 } }).jpeg().toBuffer()
    await server.heldMs()
  })
  afterAll(() => server.stop())

  const send = (file: Buffer) => server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(file) })
  const sendSound = async (file: Buffer) => {
    const { body } = await server.post('/api/uploads', { kind: 'sound', bytes: file.length })
    for (let part = 0; part * body.partBytes < file.length; part++) await server.ask(`/api/uploads/${body.id}/parts/${part}`, { method: 'PUT', body: new Uint8Array(file.subarray(part * body.partBytes, (part + 1) * body.partBytes)) })
    return server.post(`/api/uploads/${body.id}/finish`, {})
  }
  const shown = async (hash: string, side: number) => {
    const { status, bytes } = await server.fetchBytes(`/api/pictures/${hash}?side=${side}`)
    expect(status).toBe(200)
    const { width, height } = await sharp(bytes, { limitInputPixels: false }).metadata()
    return [width, height]
  }

  it('of much text is refused at once, with a word of what to do', async () => {
    const { status, body } = await send(svg(`<text>${'lamp '.repeat(2000)}</text>`))
    expect([status, body.data.code]).toEqual([413, 'too-much-text'])
    expect(body.message).toContain('outlines')
    expect((await send(svg(`${rect}<text y="9">${'lamp '.repeat(20)}</text>`))).status).toBe(200)
  })

  it('of lines that would take for ever to draw holds nobody up: it is given up, and others are served meanwhile', async () => {
    // Filters over filters, each over all of the picture.
    const filter = `<filter id="f" x="-1" y="-1" width="3" height="3">${'<feGaussianBlur stdDeviation="90"/><feTurbulence baseFrequency="0.9" numOctaves="10"/>'.repeat(120)}</filter>`
    const slow = send(svg(`<defs>${filter}</defs>${'<rect width="4000" height="3000" filter="url(#f)"/>'.repeat(60)}`, 'width="4000" height="3000"'))
    const begun = performance.now()
    expect((await send(jpeg)).status).toBe(200)
    expect(performance.now() - begun).toBeLessThan(8000)
    const { status, body } = await slow
    expect(status, JSON.stringify(body)).toBe(415)
    expect(['too-slow', 'too-heavy', 'not-a-picture', 'unreadable']).toContain(body.data.code)
  })

  it('of sound that is nothing but set bits is refused at once', async () => {
    const begun = performance.now()
    expect((await sendSound(Buffer.alloc(6 * 1024 * 1024, 0xff))).body.data.code).toBe('not-a-sound')
    expect(performance.now() - begun).toBeLessThan(5000)
  })

  it('that can’t be decoded is not taken', async () => {
    const garbage = Buffer.from(png)
    garbage.fill(7, 45, garbage.length - 12)
    const cases: readonly (readonly [string, Buffer])[] = [
      ['a PNG of garbage', garbage],
      ['a PNG without its data', Buffer.concat([png.subarray(0, 33), png.subarray(png.length - 12)])],
      ['a header alone', png.subarray(0, 33)],
      ['a JPEG that stops in its scan', jpeg.subarray(0, jpeg.length >> 1)],
      ['24 MB of empty chunks', Buffer.concat([png.subarray(0, 33), Buffer.alloc(24 * 1024 * 1024 - (24 * 1024 * 1024) % 12), png.subarray(png.length - 12)])],
    ]
    for (const [what, file] of cases) {
      const { status, body } = await send(file)
      expect(status, `${what}: ${JSON.stringify(body)}`).toBe(415)
      expect(body.message, what).toMatch(/decoded|whole|hidden/)
    }
  })

  it('that can be decoded in part is shown as far as it goes, at every size', async () => {
    const { status, body } = await send(Buffer.concat([jpeg.subarray(0, jpeg.length >> 1), Buffer.from([0xff, 0xd9])]))
    expect(status).toBe(200)
    expect(await shown(body.hash, 256)).toEqual([256, 171])
  })

  it('with what phones write behind a picture is taken without it; with an archive or a page behind it, it is not', async () => {
    const box = Buffer.concat([Buffer.from([0, 0, 0, 24]), Buffer.from('ftypmp42\0\0\0\0mp42isom', 'latin1'), Buffer.alloc(3000, 9)])
    for (const [what, rest] of [
      ['a film of the moment', box],
      ['settings', Buffer.concat([Buffer.alloc(200, 3), Buffer.from('SEFH'), Buffer.alloc(40, 1), Buffer.from('SEFT')])],
      ['another picture', jpeg],
      ['padding', Buffer.alloc(500)],
    ] as const) {
      const { status, body } = await send(Buffer.concat([jpeg, rest]))
      expect(status, `${what}: ${JSON.stringify(body)}`).toBe(200)
      expect(body.bytes, what).toBe(jpeg.length)
      const { bytes } = await server.fetchBytes(`/api/pictures/${body.hash}`)
      expect(bytes.equals(jpeg), what).toBe(true)
    }
    const zip = Buffer.from(zipSync({ 'run.sh': new Uint8Array([1, 2, 3]) }))
    for (const rest of [zip, Buffer.concat([box, zip]), Buffer.from('<script>1</script>')]) expect((await send(Buffer.concat([jpeg, rest]))).body.data?.code).toBe('polyglot')
  })

  it('of lines comes at every size, square, thin or huge; one without a size it can have is refused', async () => {
    const square = (await send(svg(rect, 'width="100" height="100"'))).body
    expect([square.widthPx, square.heightPx]).toEqual([8192, 8192])
    expect(await shown(square.hash, 8192)).toEqual([8192, 8192])
    const thin = (await send(svg('<rect width="4000" height="1"/>', 'width="4000" height="1"'))).body
    expect(await shown(thin.hash, 256)).toEqual([256, 1])
    const huge = (await send(svg(rect, 'width="1e9" height="1e9" viewBox="0 0 40 30"'))).body
    expect(await shown(huge.hash, 512)).toEqual([512, 512])
    for (const attributes of ['width="1e400" height="10"', 'viewBox="0 0 1e400 3"', 'width="100000" height="1"', '']) expect((await send(svg(rect, attributes))).status, attributes).toBe(415)
  })

  it('of lines that leads out is found however it is written', async () => {
    const leads = [
      `<style>rect{fill:u\\72l(http://else.where/x)}</style>`,
      `<style>@im\\70ort "http://else.where/x.css";</style>`,
      `<style>@font-face{font-family:x;src:url(//else.where/x)}</style>`,
      `<rect style="background:image-set('http://else.where/x' 1x)"/>`,
      `<rect style="fill:url( 'http://else.where/x#a' )"/>`,
      `<rect style="fill:u/**/rl(http://else.where)"/><rect fill="\\75 rl(//else.where#a)"/>`,
      `<rect fill="url(&#x68;ttp://else.where#a)"/>`,
    ]
    for (const inside of leads) expect((await send(svg(inside))).body.data?.code, inside).toBe('unsafe-svg')
    const plain = `<defs><linearGradient id="a"><stop/></linearGradient></defs><rect style="fill:url(#a);font-family:'A (b)'" transform="translate(1 2) rotate(3)" width="9" height="9"/>`
    expect((await send(svg(plain))).status).toBe(200)
  })

  it('never holds the server’s loop', async () => {
    expect(await server.heldMs()).toBeLessThan(MOST_HELD_MS)
  })
})
