import { getRequestHeader, type H3Event } from 'h3'
import type { z } from 'zod'
import { refuse } from './refusals'

/** Reads a JSON body and checks it. */
export async function readChecked<T>(event: H3Event, schema: z.ZodType<T>, limitBytes = 1024 * 1024): Promise<T> {
  return checked(await readText(event, limitBytes), schema)
}

/** Reads a body as text. */
export async function readText(event: H3Event, limitBytes: number): Promise<string> {
  const chunks: Buffer[] = []
  for await (const chunk of bodyOf(event, limitBytes)) chunks.push(chunk)
  return Buffer.concat(chunks).toString('utf8')
}

/** A body as it comes, its bytes counted. Who stops reading it ends the connection with the answer. */
export async function* bodyOf(event: H3Event, limitBytes: number): AsyncGenerator<Buffer> {
  let received = Number(getRequestHeader(event, 'content-length') ?? 0)
  let whole = false
  try {
    if (received > limitBytes) throw tooLarge(received, limitBytes)
    received = 0
    for await (const chunk of event.node.req.iterator({ destroyOnReturn: false })) {
      received += (chunk as Buffer).length
      if (received > limitBytes) throw tooLarge(received, limitBytes)
      yield chunk as Buffer
    }
    whole = true
  } finally {
    if (!whole) leaveUnread(event)
  }
}

/** Checks JSON; `who` may know which part of it an issue is about, for the refusal to name. */
export function checked<T>(text: string, schema: z.ZodType<T>, who: (path: readonly PropertyKey[], value: unknown) => object = () => ({})): T {
  return checkedValue(parsedJson(text, 'The request'), schema, who)
}

/** `what` is named where it is no JSON. */
export function parsedJson(text: string, what: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    throw refuse(400, 'not-json', `${what} is not valid JSON.`)
  }
}

export function checkedValue<T>(value: unknown, schema: z.ZodType<T>, who: (path: readonly PropertyKey[], value: unknown) => object = () => ({})): T {
  const parsed = schema.safeParse(value)
  if (parsed.success) return parsed.data
  const issues = parsed.error.issues.slice(0, 10).map((issue) => ({ path: issue.path.join('.'), message: issue.message }))
  const first = issues[0]!
  throw refuse(422, 'invalid-request', `${first.path || 'The request'}: ${first.message}`, { issues, ...who(parsed.error.issues[0]!.path, value) })
}

/** Lets the rest of a body pass, so that the answer can be read; the connection ends with it. */
export function leaveUnread(event: H3Event): void {
  event.node.res.setHeader('Connection', 'close')
  event.node.req.resume()
}

function tooLarge(received: number, allowed: number) {
  return refuse(413, 'too-large', `The request has ${received} bytes or more; at most ${allowed} are taken.`, { received, allowed })
}
