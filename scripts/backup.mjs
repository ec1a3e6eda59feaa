import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { postgresBin } from './install.mjs'
import { ROOT, run, Trouble } from './shell.mjs'

/** A backup is a tar of these: what it is, the database as pg_dump keeps it, and the pictures as they are. */
const MANIFEST = 'rubato-backup.json'
const DUMP = 'database.dump'
const BLOBS = 'blobs'
/** Jobs are not kept: what was being made is asked for again by the next worker that looks. */
const QUEUE = 'rubato_queue'
const VERSION = 1
/** Windows left open see by it that the film's history is another one. A database from before there was one gets it when it is migrated. */
const NEW_EPOCH = "DO $$ BEGIN IF to_regclass('public.epoch') IS NOT NULL THEN UPDATE public.epoch SET id = gen_random_uuid(); END IF; END $$"

const megabytes = (path) => `${(statSync(path).size / 1e6).toFixed(1)} MB`

function program(name) {
  const bin = postgresBin()
  if (bin === null) throw new Trouble(`${name} is missing.`, 'Install Debian’s postgresql package, then try again.')
  return join(bin, name)
}

/** Holds one moment of the database for others to read, and gives the files that it names. */
async function atOneMoment(databaseUrl, work) {
  const psql = spawn(program('psql'), ['--no-psqlrc', '--quiet', '--tuples-only', '--no-align', '--set', 'ON_ERROR_STOP=1', databaseUrl], { cwd: '/', stdio: ['pipe', 'pipe', 'pipe'] })
  let [out, errors] = ['', '']
  psql.stderr.on('data', (bytes) => (errors += bytes))
  psql.stdin.on('error', () => undefined)
  const said = new Promise((resolve, reject) => {
    psql.stdout.on('data', (bytes) => {
      out += bytes
      if (out.endsWith('\nEND\n')) resolve()
    })
    psql.once('error', reject)
    psql.once('exit', (code) => reject(new Error(errors.trim().split('\n').at(-1) || `psql ended with ${code}`)))
  })
  psql.stdin.write('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY;\nSELECT pg_export_snapshot();\nSELECT hash FROM assets ORDER BY hash;\n\\echo END\n')
  try {
    await said
    said.catch(() => undefined)
    const [snapshot, ...hashes] = out.split('\n').filter((line) => line !== '' && line !== 'END')
    return await work(snapshot, hashes)
  } finally {
    psql.kill()
  }
}

/**
 * Everything as it is at one moment into one file, while the server runs or not: the database, and the files that it names. A file
 * that is there is only replaced by a whole one.
 */
export async function backUp({ databaseUrl, storage, file }) {
  const target = resolve(file)
  const folder = mkdtempSync(join(tmpdir(), 'rubato-backup-'))
  const partial = `${target}.partial`
  const missing = []
  try {
    mkdirSync(dirname(target), { recursive: true })
    mkdirSync(storage, { recursive: true })
    await atOneMoment(databaseUrl, (snapshot, hashes) => {
      run(program('pg_dump'), ['--format=custom', `--exclude-schema=${QUEUE}`, '--no-owner', '--no-privileges', `--snapshot=${snapshot}`, '--file', join(folder, DUMP), databaseUrl], { cwd: '/' })
      const there = (hash) => existsSync(join(storage, hash.slice(0, 2), hash))
      missing.push(...hashes.filter((hash) => !there(hash)))
      writeFileSync(join(folder, MANIFEST), JSON.stringify({ format: 'rubato-backup', version: VERSION, madeAt: new Date().toISOString(), missing }))
      writeFileSync(join(folder, 'names'), hashes.filter(there).map((hash) => `${hash.slice(0, 2)}/${hash}\n`).join(''))
      // What no film has may be let go of meanwhile; nothing else is.
      run('tar', ['--create', '--file', partial, '--directory', folder, MANIFEST, DUMP, '--directory', storage, `--transform=s,^\\([0-9a-f][0-9a-f]/\\),${BLOBS}/\\1,`, '--ignore-failed-read', '--files-from', join(folder, 'names')])
    })
    renameSync(partial, target)
  } catch (error) {
    if (error instanceof Trouble) throw error
    throw new Trouble(`The backup could not be made: ${error.message}`, `Is there room for ${target}? Nothing that was there has been changed.`)
  } finally {
    rmSync(partial, { force: true })
    rmSync(folder, { recursive: true, force: true })
  }
  const lost = missing.length === 0 ? '' : `; ${missing.length === 1 ? 'a file is' : `${missing.length} files are`} missing from ${storage}: ${missing.slice(0, 3).join(', ')}${missing.length > 3 ? ' …' : ''}`
  return `${target}, ${megabytes(target)}${lost}`
}

/** A server on the database, whatever its port, would go on with what is no longer there. */
function refuseWhileServed(databaseUrl) {
  const others = Number(run(program('psql'), ['--no-psqlrc', '--tuples-only', '--no-align', '--command', "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND application_name = 'rubato'", databaseUrl], { cwd: '/' }).trim())
  if (others > 0) throw new Trouble(`Rubato is running on this database, on this port or another (${others === 1 ? 'one connection' : `${others} connections`}).`, 'Stop it, then restore. Nothing was changed.')
}

/** Puts a backup in the place of everything that is there; what is there is backed up first. All of it or nothing. */
export async function restore({ databaseUrl, storage, file, keepIn = join(ROOT, 'data') }) {
  const source = resolve(file)
  if (!existsSync(source)) throw new Trouble(`There is no file ${source}.`, 'Give the file that ./start --backup wrote.')
  const folder = mkdtempSync(join(tmpdir(), 'rubato-restore-'))
  try {
    checkNames(source)
    try {
      run('tar', ['--extract', '--file', source, '--directory', folder, '--no-same-owner'])
    } catch (error) {
      throw new Trouble(`${source} can't be read: ${error.message}`, 'Is it a whole backup? Nothing was changed.')
    }
    const manifest = JSON.parse(readFileSync(join(folder, MANIFEST), 'utf8'))
    if (manifest.format !== 'rubato-backup') throw new Trouble(`${source} is not a backup of Rubato.`, 'Nothing was changed.')
    if (manifest.version > VERSION) throw new Trouble(`${source} was made by a newer Rubato.`, 'Update this one, then try again. Nothing was changed.')
    run(program('pg_restore'), ['--list', join(folder, DUMP)], { cwd: '/' })
    const before = join(keepIn, `before-restore-${new Date().toISOString().replace(/[:.]/g, '-')}.tar`)
    refuseWhileServed(databaseUrl)
    await backUp({ databaseUrl, storage, file: before })
    mkdirSync(storage, { recursive: true })
    if (existsSync(join(folder, BLOBS))) run('cp', ['--recursive', '--no-clobber', `${join(folder, BLOBS)}/.`, storage])
    try {
      const script = join(folder, 'restore.sql')
      run(program('pg_restore'), ['--no-owner', '--no-privileges', '--file', script, join(folder, DUMP)], { cwd: '/' })
      writeFileSync(join(folder, 'there.sql'), withoutLetGo(storage))
      run(program('psql'), ['--quiet', '--no-psqlrc', '--single-transaction', '--set', 'ON_ERROR_STOP=1', '--output', '/dev/null', '--command', `DROP SCHEMA IF EXISTS ${QUEUE} CASCADE; DROP SCHEMA public CASCADE; CREATE SCHEMA public`, '--file', script, '--file', join(folder, 'there.sql'), '--command', NEW_EPOCH, databaseUrl], { cwd: '/' })
    } catch (error) {
      throw new Trouble(`The database could not be restored: ${error.message}`, 'It is as it was before.')
    }
    return `from ${manifest.madeAt}; what was there is in ${before}`
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** A picture that no film had may have been let go of while the backup was made: then the database must not say that it is there. */
function withoutLetGo(storage) {
  const there = readdirSync(storage).flatMap((name) => (/^[0-9a-f]{2}$/.test(name) ? readdirSync(join(storage, name)).filter((hash) => /^[0-9a-f]{64}$/.test(hash)) : []))
  return `CREATE TEMP TABLE there (hash text);
COPY pg_temp.there FROM stdin;
${there.map((hash) => `${hash}\n`).join('')}\\.
DO $$ BEGIN IF to_regclass('public.project_assets') IS NOT NULL THEN
  DELETE FROM public.assets a WHERE NOT EXISTS (SELECT 1 FROM pg_temp.there t WHERE t.hash = a.hash) AND NOT EXISTS (SELECT 1 FROM public.project_assets p WHERE p.hash = a.hash);
END IF; END $$;
DROP TABLE pg_temp.there;
`
}

/** A tar may name any path: only those of a backup are unpacked. */
function checkNames(source) {
  let list
  try {
    list = run('tar', ['--list', '--verbose', '--numeric-owner', '--file', source]).split('\n').filter(Boolean)
  } catch (error) {
    throw new Trouble(`${source} can't be read: ${error.message}`, 'Is it a whole backup? Nothing was changed.')
  }
  const names = list.map((line) => ({ kind: line[0], name: line.split(/\s+/).slice(5).join(' ') }))
  const bad = names.find(({ kind, name }) => !['-', 'd'].includes(kind) || !(name === MANIFEST || name === DUMP || /^blobs(\/[\w.-]*)*\/?$/.test(name)) || name.split('/').includes('..'))
  if (bad !== undefined) throw new Trouble(`${source} is not a backup of Rubato: it holds “${bad.name}”.`, 'Nothing was changed.')
  for (const wanted of [MANIFEST, DUMP]) if (!names.some(({ name }) => name === wanted)) throw new Trouble(`${source} is not a whole backup of Rubato: ${wanted} is missing.`, 'Nothing was changed.')
}
