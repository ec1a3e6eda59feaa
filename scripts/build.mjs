import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROOT, runAside, Trouble } from './shell.mjs'

const SOURCES = ['app', 'core', 'server', 'shared', 'demo', 'public', 'nuxt.config.ts', 'package-lock.json', 'scripts/build.mjs', 'scripts/bundle.mjs', 'scripts/workers.mjs']
const ENTRY = join(ROOT, '.output', 'server', 'index.mjs')

function* filesBelow(path) {
  if (!existsSync(path)) return
  if (statSync(path).isFile()) return yield path
  for (const name of readdirSync(path).sort()) if (!name.endsWith('.test.ts') && name !== 'node_modules') yield* filesBelow(join(path, name))
}

/** Of all that a build is made from. */
export function sourcesHash() {
  const hash = createHash('sha256')
  for (const source of SOURCES) for (const file of filesBelow(join(ROOT, source))) hash.update(file.slice(ROOT.length)).update(readFileSync(file))
  return hash.digest('hex')
}

/** Builds the application, unless the build there is of these very sources. `folder` is what Nuxt works in, by itself. */
export async function ensureBuild(folder = '.nuxt') {
  const mark = join(ROOT, '.output', '.sources')
  const hash = sourcesHash()
  if (existsSync(ENTRY) && existsSync(mark) && readFileSync(mark, 'utf8') === hash) return 'unchanged'
  const env = { ...process.env, NUXT_TELEMETRY_DISABLED: '1', RUBATO_BUILD_DIR: folder, NODE_OPTIONS: '--max-old-space-size=4096' }
  try {
    await runAside('npx', ['--no-install', 'nuxt', 'build'], { env })
  } catch (error) {
    throw new Trouble(`The application could not be built: ${error.message}`, 'If you changed the sources, ./test shows what is wrong. Otherwise delete .nuxt and .output and try again.')
  }
  writeFileSync(mark, hash)
  return 'built'
}

export { ENTRY }
