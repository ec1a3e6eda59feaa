import { createServer, type IncomingMessage } from 'node:http'
import type { AddressInfo } from 'node:net'
import { AwsV4Signer } from 'aws4fetch'

/** A small object store in memory that speaks as much of the S3 protocol as Rubato needs, and checks every signature. */
export async function startObjectStore(keys: { accessKeyId: string; secretAccessKey: string }, bucket: string) {
  const objects = new Map<string, { bytes: Buffer; changedAt: Date }>()
  const state = { failing: 0, refused: 0 }

  async function signedRightly(request: IncomingMessage): Promise<boolean> {
    const given = request.headers.authorization ?? ''
    const signedHeaders = /SignedHeaders=([^,]+)/.exec(given)?.[1]?.split(';') ?? []
    const headers = Object.fromEntries(signedHeaders.filter((name) => name !== 'host').map((name) => [name, String(request.headers[name] ?? '')]))
    const signer = new AwsV4Signer({ ...keys, url: `http://${request.headers.host}${request.url}`, method: request.method!, headers, service: 's3', region: 'us-east-1', datetime: String(request.headers['x-amz-date']), allHeaders: true })
    return given === (await signer.authHeader())
  }

  const server = createServer(async (request, response) => {
    const chunks: Buffer[] = []
    for await (const chunk of request) chunks.push(chunk as Buffer)
    const answer = (status: number, body: Buffer | string = '') => response.writeHead(status, { 'Content-Length': Buffer.byteLength(body) }).end(body)
    if (state.failing > 0) {
      state.failing--
      return answer(503, 'SlowDown')
    }
    if (!(await signedRightly(request))) {
      state.refused++
      return answer(403, 'SignatureDoesNotMatch')
    }
    const url = new URL(request.url!, 'http://store')
    const [, inBucket, ...rest] = url.pathname.split('/')
    if (inBucket !== bucket) return answer(404, 'NoSuchBucket')
    const key = decodeURIComponent(rest.join('/'))
    if (request.method === 'PUT') {
      if (request.headers['content-length'] === undefined) return answer(411, 'MissingContentLength')
      objects.set(key, { bytes: Buffer.concat(chunks), changedAt: new Date() })
      return answer(200)
    }
    if (request.method === 'DELETE') {
      objects.delete(key)
      return answer(204)
    }
    if (key === '') {
      const prefix = url.searchParams.get('prefix') ?? ''
      const from = url.searchParams.get('continuation-token') ?? ''
      const names = [...objects.keys()].filter((name) => name.startsWith(prefix) && name > from).sort()
      // Two a page, so that paging is always used.
      const page = names.slice(0, 2)
      const entries = page.map((name) => `<Contents><Key>${name}</Key><Size>${objects.get(name)!.bytes.length}</Size><LastModified>${objects.get(name)!.changedAt.toISOString()}</LastModified></Contents>`)
      return answer(200, `<ListBucketResult>${entries.join('')}${names.length > 2 ? `<NextContinuationToken>${page[1]}</NextContinuationToken>` : ''}</ListBucketResult>`)
    }
    const found = objects.get(key)
    if (found === undefined) return answer(404, 'NoSuchKey')
    const [, first, last] = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '') ?? []
    if (first === undefined) return answer(200, found.bytes)
    const part = found.bytes.subarray(Number(first), Number(last) + 1)
    response.writeHead(206, { 'Content-Length': part.length, 'Content-Range': `bytes ${first}-${Number(first) + part.length - 1}/${found.bytes.length}` }).end(part)
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return { endpoint: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, objects, state, stop: () => new Promise((resolve) => server.close(resolve)) }
}
