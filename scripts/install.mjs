import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { isRoot, ROOT, run, Trouble } from './shell.mjs'

/** Debian's PostgreSQL programs, newest version; null where it is not installed. */
export function postgresBin() {
  const base = '/usr/lib/postgresql'
  if (!existsSync(base)) return null
  const versions = readdirSync(base).sort((a, b) => Number(b) - Number(a))
  const found = versions.find((version) => existsSync(join(base, version, 'bin', 'initdb')))
  return found === undefined ? null : join(base, found, 'bin')
}

function aptInstall(packages) {
  const hint = `Install it yourself, then try again: sudo apt-get install ${packages.join(' ')}`
  const sudo = isRoot() ? [] : ['sudo', '-n']
  const [command, ...before] = [...sudo, 'apt-get']
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  try {
    run(command, [...before, 'update', '-qq'], { env })
    run(command, [...before, 'install', '-y', '-qq', '--no-install-recommends', ...packages], { env })
  } catch (error) {
    throw new Trouble(`${packages.join(', ')} could not be installed: ${error.message}`, hint)
  }
}

export function ensurePostgres() {
  if (postgresBin() !== null) return 'there'
  aptInstall(['postgresql'])
  if (postgresBin() === null) throw new Trouble('PostgreSQL was installed but its programs are not in /usr/lib/postgresql.', 'Install the package postgresql, or give --database-url.')
  return 'installed'
}

export function ensureChromium() {
  if (existsSync('/usr/bin/chromium')) return 'there'
  aptInstall(['chromium'])
  return 'installed'
}

/** What workers encode movies with; its probe is the tests'. */
export function ensureFfmpeg() {
  if (existsSync('/usr/bin/ffmpeg') && existsSync('/usr/bin/ffprobe')) return 'there'
  aptInstall(['ffmpeg'])
  return 'installed'
}

/** `npm ci`, unless the packages there are those of the lock file. */
export function ensurePackages() {
  const lock = createHash('sha256').update(readFileSync(join(ROOT, 'package-lock.json'))).digest('hex')
  const mark = join(ROOT, 'node_modules', '.rubato-lock')
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return 'there'
  try {
    run('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'])
  } catch (error) {
    throw new Trouble(`The npm packages could not be installed: ${error.message}`, 'Check the connection to the npm registry, then try again.')
  }
  mkdirSync(join(ROOT, 'node_modules'), { recursive: true })
  writeFileSync(mark, lock)
  return 'installed'
}
