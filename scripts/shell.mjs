import { execFile, spawn, spawnSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'

export const ROOT = fileURLToPath(new URL('..', import.meta.url)).replace(/\/$/, '')

/** A failure that the person at the terminal can do something about. */
export class Trouble extends Error {
  constructor(what, now) {
    super(what)
    this.now = now
  }
}

export function say(text) {
  process.stdout.write(`${text}\n`)
}

/** Runs a step, prints its name and how long it took, and returns what it gave. One `aside` of others is told when it has ended. */
export async function step(name, work, { aside = false } = {}) {
  const begun = performance.now()
  const live = process.stdout.isTTY === true && !aside
  if (live) process.stdout.write(`  ${name} …`)
  const start = live ? '\r' : ''
  try {
    const result = await work()
    const note = typeof result === 'string' ? ` (${result})` : ''
    process.stdout.write(`${start}  ${name}  ${((performance.now() - begun) / 1000).toFixed(1)} s${note}\n`)
    return result
  } catch (error) {
    process.stdout.write(`${start}  ${name}  failed\n`)
    throw error
  }
}

const MOST_OUTPUT = 64 * 1024 * 1024

function endedBadly(command, args, how, output) {
  // A database's address holds its password.
  const shown = args.map((arg) => String(arg).replace(/(:\/\/[^:@/]+):[^@]+@/, '$1:…@')).join(' ')
  return new Error(`${command} ${shown} ended with ${how}\n${output.trim().split('\n').slice(-25).join('\n')}`)
}

/** Runs a command to its end; returns its output. Throws with the last lines of it when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: ROOT, encoding: 'utf8', maxBuffer: MOST_OUTPUT, ...options })
  if (result.error) throw new Error(`${command}: ${result.error.message}`)
  if (result.status !== 0) throw endedBadly(command, args, result.status ?? result.signal, `${result.stdout ?? ''}${result.stderr ?? ''}`)
  return result.stdout ?? ''
}

/** The same, while other things go on. */
export function runAside(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    execFile(command, args, { cwd: ROOT, encoding: 'utf8', maxBuffer: MOST_OUTPUT, ...options }, (error, stdout, stderr) => {
      if (error === null) resolve(stdout)
      else if (typeof error.code === 'string') reject(new Error(`${command}: ${error.message}`))
      else reject(endedBadly(command, args, error.code ?? error.signal, `${stdout}${stderr}`))
    })
  })
}

/** Runs a command with its output shown; resolves to its exit code. */
export function runShown(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', ...options })
    child.on('error', reject)
    child.on('exit', (code) => resolve(code ?? 1))
  })
}

export function isRoot() {
  return process.getuid?.() === 0
}
