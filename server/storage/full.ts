import { refuse } from '../services/refusals'

/** A full disk or quota, one that may only be read, or a folder that may not be written to. */
const CODES: ReadonlySet<string> = new Set(['ENOSPC', 'EDQUOT', 'EROFS', 'EACCES', 'EPERM', 'EFBIG'])

export const cannotBeKept = (error: unknown): boolean => CODES.has((error as NodeJS.ErrnoException).code ?? '')

/** Nothing of what came is lost where it came from: it may be sent again. */
export function storageFull(error?: unknown) {
  const full = ['ENOSPC', 'EDQUOT', undefined].includes((error as NodeJS.ErrnoException | undefined)?.code)
  return refuse(507, full ? 'disk-full' : 'read-only', full ? 'The server’s disk is full, so this was not kept. Free some space, then try again; what has come in already stays.' : 'The server may not write to its storage, so this was not kept. Let it, then try again; what has come in already stays.', { retryAfter: 30 })
}
