import { fork, type ChildProcess } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { refuse } from '../services/refusals'
import type { Found, JobAnswer, JobAsk } from './messages'

const setting = (name: string, usual: number) => {
  const set = Number(process.env[name] || usual)
  return Number.isFinite(set) && set > 0 ? set : usual
}
const MOST_AT_ONCE = setting('RUBATO_FILE_JOBS', 2)
/** A picture of 64 million px is decoded in some 300 MB. */
const MOST_MEMORY_BYTES = setting('RUBATO_FILE_JOB_MB', 1024) * 1024 * 1024
const WATCH_EVERY_MS = 25
/** Nobody waits for longer; then it is said that there is too much to do. */
const MOST_WAITING = 500
const IDLE_MS = 60_000
const PAGE_BYTES = 4096
/** `/proc` counts processor time in hundredths of a second on every Linux. */
const TICKS_A_SECOND = 100
/** A machine that is busy with other things takes longer by the clock; that is not the file's fault. */
const CLOCK_FACTOR = 6

type Asked = JobAsk extends infer Ask ? (Ask extends JobAsk ? Omit<Ask, 'number'> : never) : never

interface Waiting {
  readonly ask: Asked
  readonly seconds: number
  readonly signal: AbortSignal | undefined
  readonly give: (found: Found) => void
  readonly fail: (error: Error) => void
}

interface Helper {
  readonly child: ChildProcess
  job: { readonly of: Waiting; readonly number: number; readonly ends: NodeJS.Timeout; readonly usedBefore: number } | null
  idle: NodeJS.Timeout | null
}

const helpers = new Set<Helper>()
const queue: Waiting[] = []
let numbers = 0
let watch: NodeJS.Timeout | null = null

/** Beside the server's entry; built with it. */
function script(): string {
  const found = [join(dirname(process.argv[1] ?? ''), 'jobs', 'fileJob.mjs'), join(process.cwd(), '.output', 'server', 'jobs', 'fileJob.mjs')].find(existsSync)
  if (found === undefined) throw new Error('jobs/fileJob.mjs is missing beside the server: build Rubato again.')
  return found
}

/**
 * Has a file opened by a process with limits of memory and processor time, which is ended with the file when it passes one or when
 * nobody waits any more (`signal`). Throws the refusal that says why the file can't be taken.
 */
export function runJob<T extends Found>(ask: Asked, seconds: number, signal?: AbortSignal): Promise<T> {
  return new Promise<Found>((give, fail) => {
    if (signal?.aborted === true) return fail(left())
    if (queue.length >= MOST_WAITING) return fail(busy('Too many files are being opened at once.'))
    const waiting: Waiting = { ask, seconds, signal, give, fail }
    signal?.addEventListener('abort', () => giveUp(waiting), { once: true })
    queue.push(waiting)
    next()
  }) as Promise<T>
}

const busy = (why: string) => refuse(503, 'busy', `${why} Try again in 10 seconds.`, { retryAfter: 10 })
const left = () => refuse(499, 'left', 'Whoever asked has left.')

function giveUp(waiting: Waiting) {
  const at = queue.indexOf(waiting)
  if (at >= 0) queue.splice(at, 1)
  else for (const helper of helpers) if (helper.job?.of === waiting) end(helper, left())
  waiting.fail(left())
}

function next() {
  while (queue.length > 0) {
    const free = [...helpers].find((helper) => helper.job === null) ?? (helpers.size < MOST_AT_ONCE ? begin() : null)
    if (free === null) return
    const waiting = queue.shift()!
    const number = ++numbers
    if (free.idle !== null) clearTimeout(free.idle)
    free.idle = null
    const ends = setTimeout(() => end(free, busy('The server is too busy to open the file.')), waiting.seconds * CLOCK_FACTOR * 1000)
    free.job = { of: waiting, number, ends, usedBefore: secondsUsed(free.child.pid) }
    free.child.send({ ...waiting.ask, number } satisfies JobAsk, (error) => {
      if (error !== null && free.job?.number === number) end(free, error)
    })
  }
}

function begin(): Helper {
  const child = fork(script(), [], { execArgv: ['--max-old-space-size=768'], stdio: ['ignore', 'ignore', 'inherit', 'ipc'], env: { PATH: process.env.PATH ?? '', VIPS_WARNING: '0' } })
  const helper: Helper = { child, job: null, idle: null }
  helpers.add(helper)
  child.unref()
  child.channel?.unref()
  child.on('message', (answer: JobAnswer) => {
    if (helper.job === null || helper.job.number !== answer.number) return
    const { of, ends } = helper.job
    clearTimeout(ends)
    helper.job = null
    helper.idle = setTimeout(() => end(helper), IDLE_MS).unref()
    if (answer.ok) of.give(answer.found)
    else of.fail(answer.status === 0 ? new Error(answer.message) : refuse(answer.status, answer.code, answer.message))
    next()
  })
  child.on('error', (error) => end(helper, error))
  child.on('exit', () => end(helper, refuse(415, 'unreadable', 'The file can’t be opened: the program that reads it broke off. Save it again, then try again.')))
  watch ??= setInterval(look, WATCH_EVERY_MS).unref()
  return helper
}

/** Ends a helper and what it was at; the next job gets a new one. */
function end(helper: Helper, why?: Error) {
  if (!helpers.delete(helper)) return
  if (helper.idle !== null) clearTimeout(helper.idle)
  helper.child.removeAllListeners('exit')
  helper.child.kill('SIGKILL')
  if (helper.job !== null) {
    clearTimeout(helper.job.ends)
    helper.job.of.fail(why ?? new Error('ended'))
    helper.job = null
  }
  if (helpers.size === 0 && watch !== null) {
    clearInterval(watch)
    watch = null
  }
  next()
}

/** What the kernel says of a process, in fields; empty where it has just ended. */
function fieldsOf(pid: number | undefined, file: 'stat' | 'statm'): readonly string[] {
  try {
    // A name in brackets, which may hold anything, comes before the fields.
    return readFileSync(`/proc/${pid}/${file}`, 'latin1').split(') ').at(-1)!.split(' ')
  } catch {
    return []
  }
}
/** User and system time (proc(5), fields 14 and 15). */
function secondsUsed(pid: number | undefined): number {
  const stat = fieldsOf(pid, 'stat')
  return (Number(stat[11] ?? 0) + Number(stat[12] ?? 0)) / TICKS_A_SECOND
}
const memoryBytes = (pid: number | undefined) => Number(fieldsOf(pid, 'statm')[1] ?? 0) * PAGE_BYTES

/** Ends what takes more of the processor or of memory than a file may. */
function look() {
  for (const helper of helpers) {
    if (helper.job === null) continue
    const { of, usedBefore } = helper.job
    const simpler = 'so it is not taken. Save it in a simpler form and try again.'
    if (memoryBytes(helper.child.pid) > MOST_MEMORY_BYTES) end(helper, refuse(415, 'too-heavy', `The file needs more than ${MOST_MEMORY_BYTES / 1024 ** 2} MB to open, ${simpler}`))
    else if (secondsUsed(helper.child.pid) - usedBefore > of.seconds) end(helper, refuse(415, 'too-slow', `The file takes more than ${of.seconds.toFixed(0)} seconds to open, ${simpler}`))
  }
}

export function endJobs() {
  for (const waiting of queue.splice(0)) waiting.fail(left())
  for (const helper of [...helpers]) end(helper)
}
