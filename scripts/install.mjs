import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { HEADLESS_CHROMIUM } from './chromiumFlags.mjs'
import { isRoot, ROOT, runAside, Trouble } from './shell.mjs'

/** Debian's PostgreSQL programs, newest version; null where it is not installed. */
export function postgresBin() {
  const base = '/usr/lib/postgresql'
  if (!existsSync(base)) return null
  const versions = readdirSync(base).sort((a, b) => Number(b) - Number(a))
  const found = versions.find((version) => existsSync(join(base, version, 'bin', 'initdb')))
  return found === undefined ? null : join(base, found, 'bin')
}

/** Debian's lists need to be fetched once. */
let fetched = null

async function aptInstall(packages) {
  const hint = `Install it yourself, then try again: sudo apt-get install ${packages.join(' ')}`
  const sudo = isRoot() ? [] : ['sudo', '-n']
  const [command, ...before] = [...sudo, 'apt-get']
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  try {
    await (fetched ??= runAside(command, [...before, 'update', '-qq'], { env }))
    await runAside(command, [...before, 'install', '-y', '-qq', '--no-install-recommends', ...packages], { env })
  } catch (error) {
    fetched = null
    throw new Trouble(`${packages.join(', ')} could not be installed: ${error.message}`, hint)
  }
}

export async function ensurePostgres() {
  if (postgresBin() !== null) return 'there'
  await aptInstall(['postgresql'])
  if (postgresBin() === null) throw new Trouble('PostgreSQL was installed but its programs are not in /usr/lib/postgresql.', 'Install the package postgresql, or give --database-url.')
  return 'installed'
}

export async function ensureChromium() {
  if (existsSync('/usr/bin/chromium')) return 'there'
  await aptInstall(['chromium'])
  return 'installed'
}

/** Chromium without its windows, which opens a page in less time; where Debian has none, the whole one is enough. */
export async function ensureHeadlessChromium() {
  if (existsSync(HEADLESS_CHROMIUM)) return 'there'
  return aptInstall(['chromium-headless-shell']).then(
    () => 'installed',
    () => 'not to be had, so the whole Chromium',
  )
}

/** What workers encode movies with; its probe is the tests'. */
export async function ensureFfmpeg() {
  if (existsSync('/usr/bin/ffmpeg') && existsSync('/usr/bin/ffprobe')) return 'there'
  await aptInstall(['ffmpeg'])
  return 'installed'
}

/** `npm ci`, unless the packages there are those of the lock file. */
export async function ensurePackages() {
  const lock = createHash('sha256').update(readFileSync(join(ROOT, 'package-lock.json'))).digest('hex')
  const mark = join(ROOT, 'node_modules', '.rubato-lock')
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return 'there'
  try {
    await runAside('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'])
  } catch (error) {
    throw new Trouble(`The npm packages could not be installed: ${error.message}`, 'Check the connection to the npm registry, then try again.')
  }
  mkdirSync(join(ROOT, 'node_modules'), { recursive: true })
  writeFileSync(mark, lock)
  return 'installed'
}
