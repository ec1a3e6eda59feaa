import { createError, type H3Error } from 'h3'

/** An answer that says what was wrong: `data.code` for programs, the message for people. */
export function refuse(statusCode: number, code: string, message: string, details: object = {}): H3Error {
  return createError({ statusCode, statusMessage: code, message, data: { code, ...details } })
}

export function notFound(what: string, id: string): H3Error {
  return refuse(404, 'not-found', `There is no ${what} ${id}.`, { what, id })
}

/** For what no handler takes. */
export function noSuchAddress(method: string, path: string): H3Error {
  return refuse(404, 'no-such-address', `The server has nothing at ${method} ${path.split('?')[0]!.slice(0, 100)}.`)
}
