import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { crc32, deflateSync } from 'node:zlib'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startObjectStore } from './s3StandIn'
import { startTestServer, type TestServer } from './testServer'

const PART = 4 * 1024 * 1024

/** A real PNG of noise, as large as asked for. */
function png(widthPx: number, heightPx: number, filler = 0): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const head = Buffer.alloc(8)
    head.writeUInt32BE(data.length)
    head.write(type, 4, 'latin1')
    const crc = Buffer.alloc(4)
    crc.writeUInt32BE(crc32(Buffer.concat([head.subarray(4), data])))
    return Buffer.concat([head, data, crc])
  }
  const header = Buffer.alloc(13)
  header.writeUInt32BE(widthPx, 0)
  header.writeUInt32BE(heightPx, 4)
  header.set([8, 0, 0, 0, 0], 8)
  const raw = Buffer.alloc((widthPx + 1) * heightPx)
  const parts = [Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), chunk('IHDR', header), chunk('IDAT', deflateSync(raw))]
  if (filler > 0) parts.push(chunk('teXt', Buffer.alloc(filler, 7)))
  return Buffer.concat([...parts, chunk('IEND', Buffer.alloc(0))])
}

function wav(seconds: number, rate = 8000): Buffer {
  const data = Buffer.alloc(seconds * rate * 2)
  const head = Buffer.alloc(44)
  head.write('RIFF', 0)
  head.writeUInt32LE(36 + data.length, 4)
  head.write('WAVEfmt ', 8)
  head.writeUInt32LE(16, 16)
  head.writeUInt16LE(1, 20)
  head.writeUInt16LE(1, 22)
  head.writeUInt32LE(rate, 24)
  head.writeUInt32LE(rate * 2, 28)
  head.writeUInt16LE(2, 32)
  head.writeUInt16LE(16, 34)
  head.write('data', 36)
  head.writeUInt32LE(data.length, 40)
  return Buffer.concat([head, data])
}

const JPEG = await sharp({ create: { width: 6, height: 4, channels: 3, background: '#a6402f' } }).jpeg().toBuffer()

const stores = ['folder', 'objects'] as const

for (const kind of stores) {
  describe(`uploads to a store of ${kind}`, () => {
    let server: TestServer
    let objects: Awaited<ReturnType<typeof startObjectStore>>
    const keys = { accessKeyId: 'rubato', secretAccessKey: 'the secret of the stand-in' }

    beforeAll(async () => {
      objects = await startObjectStore(keys, 'films')
      server = await startTestServer(
        kind === 'folder' ? { RUBATO_SEED: 'demo' } : { RUBATO_SEED: 'demo', RUBATO_S3_ENDPOINT: objects.endpoint, RUBATO_S3_BUCKET: 'films', RUBATO_S3_KEY: keys.accessKeyId, RUBATO_S3_SECRET: keys.secretAccessKey },
      )
    })
    afterAll(async () => {
      await server.stop()
      await objects.stop()
    })

    const begin = (bytes: number, what = 'picture') => server.post('/api/uploads', { kind: what, bytes })
    const sendPart = (id: string, part: number, bytes: Buffer) => server.ask(`/api/uploads/${id}/parts/${part}`, { method: 'PUT', body: new Uint8Array(bytes) })
    const partOf = (file: Buffer, part: number) => file.subarray(part * PART, (part + 1) * PART)
    const finish = (id: string) => server.post(`/api/uploads/${id}/finish`, {})
    const upload = async (file: Buffer, what = 'picture') => {
      const { body } = await begin(file.length, what)
      for (let part = 0; part * PART < file.length; part++) expect((await sendPart(body.id, part, partOf(file, part))).status).toBe(204)
      return finish(body.id)
    }

    it('arrive in parts, go on after a drop, and are the same to the byte', async () => {
      const file = png(400, 300, 2 * PART + 1000)
      const { body } = await begin(file.length)
      expect(body).toMatchObject({ partBytes: PART, parts: [] })
      expect((await sendPart(body.id, 2, partOf(file, 2))).status).toBe(204)
      const early = await finish(body.id)
      expect(early.status).toBe(409)
      expect(early.body.data.missing).toEqual([0, 1])
      // A connection that ends early leaves no part behind.
      await expect(
        fetch(`${server.address}/api/uploads/${body.id}/parts/0`, {
          method: 'PUT',
          duplex: 'half',
          body: new ReadableStream({
            start(controller) {
              controller.enqueue(new Uint8Array(1000))
              setTimeout(() => controller.error(new Error('lost')), 50)
            },
          }),
        } as RequestInit),
      ).rejects.toThrow()
      await expect.poll(async () => (await server.ask(`/api/uploads/${body.id}`)).body.parts).toEqual([2])
      await sendPart(body.id, 0, partOf(file, 0))
      await sendPart(body.id, 1, partOf(file, 1))
      await sendPart(body.id, 1, partOf(file, 1))
      const { status, body: stored } = await finish(body.id)
      expect(status).toBe(200)
      expect(stored).toMatchObject({ kind: 'picture', type: 'image/png', widthPx: 400, heightPx: 300, bytes: file.length, hash: createHash('sha256').update(file).digest('hex') })
      const back = Buffer.from(await (await fetch(`${server.address}/api/pictures/${stored.hash}`)).arrayBuffer())
      expect(back.equals(file)).toBe(true)
      expect((await server.ask(`/api/uploads/${body.id}`)).status).toBe(404)
    })

    it('are refused by what their bytes are, with the reason', async () => {
      const whole = png(20, 20)
      const cases: readonly (readonly [string, Buffer, string])[] = [
        ['a web page', Buffer.from('<html><script>1</script></html>'), 'not-a-picture'],
        ['an SVG with a script', Buffer.from('<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script>1</script></svg>'), 'unsafe-svg'],
        ['a PNG cut short', whole.subarray(0, whole.length - 20), 'truncated'],
        ['a PNG with a zip behind it', Buffer.concat([whole, Buffer.from('PK\x03\x04 and so on')]), 'polyglot'],
        ['a JPEG cut short', JPEG.subarray(0, JPEG.length - 2), 'truncated'],
        ['a JPEG with a page behind it', Buffer.concat([JPEG, Buffer.from('<script>1</script>')]), 'polyglot'],
        ['a picture of too many pixels', bomb(), 'too-many-pixels'],
      ]
      for (const [what, file, code] of cases) expect((await upload(file)).body.data?.code, what).toBe(code)
      expect((await upload(JPEG)).body).toMatchObject({ type: 'image/jpeg', widthPx: 6, heightPx: 4 })
    })

    it('of sounds tell how long they are; what is no sound, or too long, is refused', async () => {
      expect((await upload(wav(3), 'sound')).body).toMatchObject({ kind: 'sound', type: 'audio/wav', seconds: 3 })
      expect((await upload(png(4, 4), 'sound')).body.data.code).toBe('not-a-sound')
      expect((await upload(wav(0), 'sound')).body.data.code).toBe('empty')
    })

    it('say what is wrong with a part, an upload or a size', async () => {
      const { body } = await begin(PART + 10)
      expect((await sendPart(body.id, 2, Buffer.alloc(10))).body.data.code).toBe('no-such-part')
      expect((await sendPart(body.id, 1, Buffer.alloc(11))).body.data.code).toBe('wrong-part')
      expect((await sendPart(body.id, 1, Buffer.alloc(9))).body.data.code).toBe('cut-short')
      expect((await server.ask(`/api/uploads/${body.id}`, { method: 'DELETE' })).status).toBe(204)
      expect((await finish(body.id)).status).toBe(404)
      expect((await begin(0)).status).toBe(422)
      const large = await begin(65 * 1024 * 1024)
      expect(large.status).toBe(413)
      expect(large.body.message).toContain('64 MB')
    })

    it('come at the size asked for, made once, and at their own where that is smaller', async () => {
      const { body } = await upload(png(1500, 900))
      const at = async (query: string) => {
        const { headers, bytes, status } = await server.fetchBytes(`/api/pictures/${body.hash}${query}`)
        return { status, type: headers.get('content-type'), size: status === 200 ? await sharp(bytes).metadata().then(({ width, height }) => [width, height]) : null }
      }
      expect(await at('?side=512')).toEqual({ status: 200, type: 'image/png', size: [512, 307] })
      expect(await at('?side=512')).toEqual({ status: 200, type: 'image/png', size: [512, 307] })
      expect((await at('?side=2048')).size).toEqual([1500, 900])
      expect((await at('')).size).toEqual([1500, 900])
      expect((await at('?side=513')).status).toBe(422)
    })

    it('of lines are kept as lines and shown as pixels at any size', async () => {
      const svg = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 30"><rect width="20" height="30" fill="#2a6a99"/></svg>')
      const { status, body } = await upload(svg)
      expect([status, body.type, body.widthPx, body.heightPx]).toEqual([200, 'image/svg+xml', 8192, 6144])
      const { bytes, headers } = await server.fetchBytes(`/api/pictures/${body.hash}?side=1024`)
      expect(headers.get('content-type')).toBe('image/png')
      const { data, info } = await sharp(bytes).raw().toBuffer({ resolveWithObject: true })
      expect([info.width, info.height]).toEqual([1024, 768])
      // The edge at the middle is as sharp as a pixel: drawn at this size, not enlarged.
      const alpha = (x: number) => data[(384 * 1024 + x) * info.channels + info.channels - 1]
      expect([alpha(510), alpha(513)]).toEqual([255, 0])
    })

    it.each([
      ['a program', '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script>alert(1)</script></svg>'],
      ['an event', '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9" onload="alert(1)"/>'],
      ['a page inside', '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><foreignObject/></svg>'],
      ['a link out', '<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="http://www.w3.org/1999/xlink" width="9" height="9"><image x:href="file:///etc/passwd"/></svg>'],
      ['a style that loads', '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><style>@import url(//else.where/x.css)</style></svg>'],
      ['entities', '<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><text>&a;</text></svg>'],
    ])('of lines with %s are refused', async (_, text) => {
      const { status, body } = await upload(Buffer.from(text))
      expect([status, body.data.code]).toEqual([415, 'unsafe-svg'])
    })

    it('that no project needs go with a sweep, which can be run dry; those that one has shown stay', async () => {
      const unused = (await upload(png(31, 7))).body.hash as string
      const shown = (await upload(png(32, 7))).body.hash as string
      const mark = { id: 'pic', order: 'a1', kind: 'picture', assetHash: shown, widthPx: 32, heightPx: 7, x: 0, y: 0, widthFw: 0.5 }
      const draw = (base: number, before: object | null, after: object | null, id: string) =>
        server.post('/api/projects/salt-lantern/edits', { base: { 'drawing:placed': base }, changes: [{ id, label: 'picture', edits: [{ kind: 'x', unit: { kind: 'drawing', id: 'placed' }, changes: { marks: { pic: { before, after } } } }] }] })
      expect((await draw(0, null, mark, 'change-place')).status).toBe(200)
      // Deleted from the drawing, but undo may want it.
      expect((await draw(1, mark, null, 'change-delete')).status).toBe(200)
      const sweep = async (dry: boolean) => (await server.post('/api/sweep', { dry })).body as { hashes: string[]; blobs: number }
      expect((await sweep(true)).blobs).toBe(0)
      const old = new Date(Date.now() - 30 * 24 * 3600 * 1000)
      for (const hash of [unused, shown]) {
        if (kind === 'folder') utimesSync(join(server.storage, hash.slice(0, 2), hash), old, old)
        else objects.objects.get(`blobs/${hash}`)!.changedAt = old
      }
      await server.query(`UPDATE assets SET touched_at = now() - interval '30 days'`)
      expect((await sweep(true)).hashes).toEqual([unused])
      expect((await fetch(`${server.address}/api/pictures/${unused}`)).status).toBe(200)
      expect((await sweep(false)).hashes).toEqual([unused])
      expect((await fetch(`${server.address}/api/pictures/${unused}`)).status).toBe(404)
      expect((await fetch(`${server.address}/api/pictures/${shown}`)).status).toBe(200)
      await server.ask('/api/projects/salt-lantern', { method: 'DELETE' })
      expect((await sweep(true)).blobs).toBe(0)
      await server.ask('/api/projects/salt-lantern/trash', { method: 'DELETE' })
      expect((await sweep(false)).hashes).toEqual([shown])
    })

    if (kind === 'objects') {
      it('go through a store that fails for a moment, with signatures it takes, and nothing on this machine', async () => {
        objects.state.failing = 2
        expect((await upload(png(9, 9))).status).toBe(200)
        expect(objects.state.refused).toBe(0)
        expect(existsSync(server.storage) ? readdirSync(server.storage) : []).toEqual([])
        expect((await server.ask('/api/health')).body.storage).toBe('ok')
      })
    } else {
      it('of 60 MB leave the server’s memory as it was', async () => {
        const file = png(50, 50, 60 * 1024 * 1024)
        const memory = () => Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid()}/status`, 'utf8'))![1]) / 1024
        await upload(png(5, 5, PART))
        const before = memory()
        expect((await upload(file)).status).toBe(200)
        expect(memory() - before).toBeLessThan(100)
      })
    }
  })
}

function bomb(): Buffer {
  const file = png(2, 2)
  file.writeUInt32BE(60_000, 16)
  file.writeUInt32BE(60_000, 20)
  return file
}
