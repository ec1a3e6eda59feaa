import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { stripVTControlCharacters } from 'node:util'
import { ensureBuild } from './build.mjs'
import { removeCluster, startCluster } from './cluster.mjs'
import { ensureChromium, ensureHeadlessChromium, ensurePackages, ensurePostgres, ensureFfmpeg } from './install.mjs'
import { ROOT, run, say, step } from './shell.mjs'

const PARTS = ['unit', 'server', 'e2e', 'kills', 'hostile']
/** Long, so only when they are asked for. */
const ASKED_FOR = ['kills', 'hostile']
const part = process.argv[2] ?? 'all'
if (!['all', ...PARTS].includes(part)) {
  say(`./test [${PARTS.join('|')}]`)
  process.exit(2)
}
const wants = (name) => (part === 'all' && !ASKED_FOR.includes(name)) || part === name

const totals = { passed: 0, failed: 0 }
/** Told again at the very end, where nobody has to look for it. */
const failures = []
const scratch = mkdtempSync(join(tmpdir(), 'rubato-test-'))
let cluster = null

function cleanUp() {
  if (cluster !== null) removeCluster(cluster)
  cluster = null
  rmSync(scratch, { recursive: true, force: true })
}
for (const signal of ['SIGINT', 'SIGTERM']) {
  process.on(signal, () => {
    cleanUp()
    process.exit(130)
  })
}

/** A check that passes or fails as one. What it says is shown only where it fails. */
async function check(name, command, args) {
  const begun = performance.now()
  const { code, output } = await new Promise((resolve) => {
    const child = spawn(command, args, { cwd: ROOT, env: process.env, stdio: ['ignore', 'pipe', 'pipe'] })
    let text = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (text = (text + chunk).slice(-20_000)))
    child.on('error', (error) => resolve({ code: 1, output: error.message }))
    child.on('exit', (ended) => resolve({ code: ended ?? 1, output: text }))
  })
  totals[code === 0 ? 'passed' : 'failed'] += 1
  say(`  ${name}  ${code === 0 ? `${((performance.now() - begun) / 1000).toFixed(1)} s` : 'failed'}`)
  if (code === 0) return
  failures.push(`${name}:\n${output.trim().split('\n').slice(-40).join('\n')}`)
  say(failures.at(-1))
}

function runTests(command, args, env) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd: ROOT, env: { ...process.env, ...env }, stdio: 'inherit' })
    child.on('exit', (code) => resolve(code ?? 1))
  })
}

/** The first lines of what a failed test said, under its name. */
const told = (name, message) => `  ${name}\n${stripVTControlCharacters(message).trim().split('\n').slice(0, 12).map((line) => `    ${line}`).join('\n')}`

function count(name, passed, failed, code, said = []) {
  totals.passed += passed
  if (failed > 0 || code !== 0) failures.push([`${name} tests: ${failed} failed, ended with ${code}`, ...said].join('\n'))
  // A runner that ended badly without naming a failed test has failed all the same.
  totals.failed += failed === 0 && code !== 0 ? 1 : failed
}

async function vitest(project, env = {}, files = []) {
  say(`\n${project} tests`)
  const out = join(scratch, `${project}.json`)
  const code = await runTests('npx', ['--no-install', 'vitest', 'run', ...files, '--project', project === 'unit' ? 'unit*' : project, '--reporter=dot', '--reporter=json', `--outputFile.json=${out}`], env)
  try {
    const { numPassedTests, numFailedTests, testResults } = JSON.parse(readFileSync(out, 'utf8'))
    const said = testResults.flatMap(({ name, message, assertionResults }) => [
      // A file that could not be run has no tests to tell of.
      ...(message ? [told(name, message)] : []),
      ...assertionResults.filter(({ status }) => status === 'failed').map(({ fullName, failureMessages }) => told(`${name}: ${fullName}`, failureMessages.join('\n'))),
    ])
    count(project, numPassedTests, numFailedTests, code, said)
  } catch {
    count(project, 0, 1, code)
  }
}

async function playwright(env, only = []) {
  say('\nbrowser tests')
  const out = join(scratch, 'e2e.json')
  const code = await runTests('npx', ['--no-install', 'playwright', 'test', '--reporter=list,json', ...only], { ...env, PLAYWRIGHT_JSON_OUTPUT_NAME: out })
  try {
    const { stats, suites } = JSON.parse(readFileSync(out, 'utf8'))
    const specs = (suite) => [...suite.specs, ...(suite.suites ?? []).flatMap(specs)]
    const failed = suites.flatMap(specs).filter(({ ok }) => !ok)
    const said = failed.map(({ file, title, tests }) => told(`${file}: ${title}`, tests.at(-1)?.results.at(-1)?.error?.message ?? ''))
    count('browser', stats.expected + stats.flaky, stats.unexpected, code, said)
  } catch {
    count('browser', 0, 1, code)
  }
}

try {
  const needsServer = PARTS.some((name) => name !== 'unit' && wants(name))
  const fromDebian = async () => {
    if (needsServer) await step('PostgreSQL', ensurePostgres, { aside: true })
    if (wants('e2e') || wants('server') || wants('hostile')) {
      await step('Chromium', ensureChromium, { aside: true })
      await step('ffmpeg', ensureFfmpeg, { aside: true })
    }
    if (wants('e2e') || wants('hostile')) await step('Chromium without windows', ensureHeadlessChromium, { aside: true })
  }
  // Both fetch more than they work. What goes wrong with the one is told once the other is there.
  const installed = fromDebian()
  installed.catch(() => undefined)
  await step('packages', ensurePackages, { aside: true })
  await step('prepare', () => void run('npx', ['--no-install', 'nuxt', 'prepare'], { env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' } }), { aside: true })
  const programs = async () => {
    await installed
    // In a folder of its own: types are looked at meanwhile by what was prepared.
    if (needsServer) await step('build', () => ensureBuild('.nuxt/apart'), { aside: true })
    // They mostly wait, and their figures mean nothing.
    if (wants('e2e')) await check('benchmarks, once and small', process.execPath, ['scripts/bench.mjs', '--small'])
  }
  const sources = async () => {
    if (!wants('unit')) return
    for (const name of ['core', 'views', 'rest']) await check(`types, ${name}`, 'npm', ['run', '-s', `types:${name}`])
    await check('lint', 'npm', ['run', '-s', 'lint'])
    await check('import rules', 'npm', ['run', '-s', 'floors'])
    await check('nothing unused', 'npm', ['run', '-s', 'unused'])
    await vitest('unit')
  }
  // What is installed and built, and what is checked of the sources: each is of about one thread, and none of it counts time.
  await Promise.all([programs(), sources()])
  if (needsServer) cluster = await step('test database', async () => startCluster({ name: `test-${process.pid}`, port: 54_390, fast: true }))
  const env = { RUBATO_TEST_DATABASE_URL: cluster?.url ?? '' }
  if (wants('server')) await vitest('server', env)
  // The long form of the durability test: fifty kills instead of three.
  if (wants('kills')) for (const writers of ['2', '8']) await vitest('server', { ...env, RUBATO_KILLS: '50', RUBATO_KILL_WRITERS: writers }, ['server/test/durability.test.ts'])
  if (wants('kills')) await vitest('server', { ...env, RUBATO_KILLS: '30' }, ['server/test/renders.test.ts'])
  if (wants('hostile')) await vitest('server', { ...env, RUBATO_HOSTILE: '1', RUBATO_HOSTILE_KEEP: process.argv.includes('--keep') ? '1' : '' }, ['server/hostile'])
  if (wants('hostile')) await playwright({ ...env, RUBATO_HOSTILE_FILES: '1000' }, ['hostile.spec.ts'])
  if (wants('e2e')) await playwright(env)
} catch (error) {
  totals.failed += 1
  failures.push(error.message)
  say(`\n${error.message}${error.now ? `\n${error.now}` : ''}`)
} finally {
  cleanUp()
}
for (const failure of failures) say(`\n${failure}`)
say(`\n${totals.passed} passed, ${totals.failed} failed`)
process.exit(totals.failed === 0 ? 0 : 1)
