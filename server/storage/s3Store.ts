import { createReadStream } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import type { ReadableStream } from 'node:stream/web'
import { AwsClient } from 'aws4fetch'
import { isHash, PartCutShort, type BlobStore } from './blobStore'
import { staged, sweepStaging } from './staging'

export interface S3Settings {
  readonly endpoint: string
  readonly bucket: string
  readonly accessKeyId: string
  readonly secretAccessKey: string
  readonly region: string
}

const TRIES = 3

/** Blobs in any store that speaks the S3 protocol, addressed by path. Files are staged on this machine first, to be inspected. */
export function createS3Store({ endpoint, bucket, accessKeyId, secretAccessKey, region }: S3Settings): BlobStore {
  const client = new AwsClient({ accessKeyId, secretAccessKey, region, service: 's3', retries: 0 })
  const base = `${endpoint.replace(/\/+$/, '')}/${bucket}`
  const staging = join(tmpdir(), 'rubato-staging')
  const blob = (hash: string) => `blobs/${hash}`
  const partName = (upload: string, part: number) => `uploads/${upload}/${String(part).padStart(6, '0')}`

  /** `body` makes the body anew for each try: a stream can be sent only once. */
  async function ask(method: string, path: string, body?: () => BodyInit, headers: Record<string, string> = {}): Promise<Response> {
    for (let tries = 0; ; tries++) {
      const sent = body === undefined ? {} : { body: body(), duplex: 'half' }
      // What is signed of a stream is that its bytes are not.
      const response = await client.fetch(`${base}/${path}`, { method, headers: { 'X-Amz-Content-Sha256': 'UNSIGNED-PAYLOAD', ...headers }, ...sent } as RequestInit).catch((error: Error) => error)
      if (response instanceof Response && (response.ok || response.status === 404)) return response
      const passing = response instanceof Error || response.status >= 500 || response.status === 429
      if (!passing || tries >= TRIES) throw new Error(response instanceof Error ? `the object store does not answer (${response.message})` : `the object store answered ${response.status} to ${method}`)
      await new Promise((resolve) => setTimeout(resolve, 200 * 2 ** tries))
    }
  }
  async function putFile(name: string, path: string, bytes: number) {
    const response = await ask('PUT', name, () => Readable.toWeb(createReadStream(path)) as unknown as BodyInit, { 'Content-Length': String(bytes) })
    if (!response.ok) throw new Error(`the object store has no bucket ${bucket}`)
  }
  async function* names(prefix: string) {
    let token = ''
    do {
      const query = new URLSearchParams({ 'list-type': '2', prefix, ...(token === '' ? {} : { 'continuation-token': token }) })
      const response = await ask('GET', `?${query}`)
      if (!response.ok) throw new Error(`the object store has no bucket ${bucket}`)
      const text = await response.text()
      for (const [, entry] of text.matchAll(/<Contents>(.*?)<\/Contents>/gs)) {
        const field = (name: string) => new RegExp(`<${name}>(.*?)</${name}>`, 's').exec(entry!)?.[1] ?? ''
        yield { name: field('Key'), bytes: Number(field('Size')), changedAt: new Date(field('LastModified')) }
      }
      token = /<NextContinuationToken>(.*?)<\/NextContinuationToken>/s.exec(text)?.[1]?.replaceAll('&amp;', '&') ?? ''
    } while (token !== '')
  }
  const streamOf = (response: Response) => Readable.fromWeb(response.body as ReadableStream)

  return {
    put: (source, limitBytes, inspect, keep) => staged(staging, source, limitBytes, inspect, (file) => keep(file, () => putFile(blob(file.hash), file.path, file.bytes))),
    async read(hash, range) {
      if (!isHash(hash)) return null
      const response = await ask('GET', blob(hash), undefined, range === undefined ? {} : { Range: `bytes=${range.first}-${range.last}` })
      if (!response.ok) return null
      // A store that does not know ranges sends all of it.
      if (range !== undefined && response.status !== 206) throw new Error('the object store does not send parts of objects')
      const whole = /\/(\d+)$/.exec(response.headers.get('content-range') ?? '')?.[1]
      return { stream: streamOf(response), bytes: Number(whole ?? response.headers.get('content-length')) }
    },
    has: async (hash) => isHash(hash) && (await ask('HEAD', blob(hash))).ok,
    async remove(hash) {
      await ask('DELETE', blob(hash))
    },
    async *list() {
      for await (const { name, bytes, changedAt } of names('blobs/')) yield { hash: name.slice(6), bytes, changedAt }
    },
    putPart: (upload, part, source, bytes) =>
      staged(staging, source, bytes, async () => ({}), async (file) => {
        if (file.bytes !== bytes) throw new PartCutShort(`${file.bytes} of ${bytes} bytes`)
        await putFile(partName(upload, part), file.path, bytes)
      }),
    async partsOf(upload) {
      const found: number[] = []
      for await (const { name } of names(`uploads/${upload}/`)) found.push(Number(name.slice(name.lastIndexOf('/') + 1)))
      return found.sort((a, b) => a - b)
    },
    async readPart(upload, part) {
      const response = await ask('GET', partName(upload, part))
      if (!response.ok) throw new Error(`part ${part} is missing`)
      return streamOf(response)
    },
    async removeParts(upload) {
      for await (const { name } of names(`uploads/${upload}/`)) await ask('DELETE', name)
    },
    sweep: () => sweepStaging(staging, 'partial'),
    async check() {
      const response = await ask('GET', '?list-type=2&max-keys=1')
      if (!response.ok) throw new Error(`the object store has no bucket ${bucket}`)
    },
  }
}
