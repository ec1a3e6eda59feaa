import { existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { postgresBin } from './install.mjs'
import { ROOT, run, Trouble } from './shell.mjs'

/** A backup is a tar of these: what it is, the database as pg_dump keeps it, and the pictures as they are. */
const MANIFEST = 'rubato-backup.json'
const DUMP = 'database.dump'
const BLOBS = 'blobs'
const VERSION = 1

const megabytes = (path) => `${(statSync(path).size / 1e6).toFixed(1)} MB`

function program(name) {
  const bin = postgresBin()
  if (bin === null) throw new Trouble(`${name} is missing.`, 'Install Debian’s postgresql package, then try again.')
  return join(bin, name)
}

/** Everything into one file, while the server runs or not. A file that is there is only replaced by a whole one. */
export function backUp({ databaseUrl, storage, file }) {
  const target = resolve(file)
  const folder = mkdtempSync(join(tmpdir(), 'rubato-backup-'))
  const partial = `${target}.partial`
  try {
    mkdirSync(dirname(target), { recursive: true })
    // The database first: pictures that come in meanwhile are then too many in the backup, never too few.
    run(program('pg_dump'), ['--format=custom', '--no-owner', '--no-privileges', '--file', join(folder, DUMP), databaseUrl], { cwd: '/' })
    writeFileSync(join(folder, MANIFEST), JSON.stringify({ format: 'rubato-backup', version: VERSION, madeAt: new Date().toISOString() }))
    mkdirSync(storage, { recursive: true })
    run('tar', ['--create', '--file', partial, '--directory', folder, MANIFEST, DUMP, '--directory', dirname(storage), `--transform=s,^${escaped(storage.slice(dirname(storage).length + 1))},${BLOBS},`, '--exclude=*.partial', storage.slice(dirname(storage).length + 1)])
    renameSync(partial, target)
  } catch (error) {
    if (error instanceof Trouble) throw error
    throw new Trouble(`The backup could not be made: ${error.message}`, `Is there room for ${target}? Nothing that was there has been changed.`)
  } finally {
    rmSync(partial, { force: true })
    rmSync(folder, { recursive: true, force: true })
  }
  return `${target}, ${megabytes(target)}`
}

const escaped = (text) => text.replace(/[.[\]*^$\\,]/g, '\\$&')

/** Puts a backup in the place of everything that is there; what is there is backed up first. All of it or nothing. */
export function restore({ databaseUrl, storage, file, keepIn = join(ROOT, 'data') }) {
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
    backUp({ databaseUrl, storage, file: before })
    mkdirSync(storage, { recursive: true })
    if (existsSync(join(folder, BLOBS))) run('cp', ['--recursive', '--no-clobber', `${join(folder, BLOBS)}/.`, storage])
    try {
      const script = join(folder, 'restore.sql')
      run(program('pg_restore'), ['--no-owner', '--no-privileges', '--file', script, join(folder, DUMP)], { cwd: '/' })
      run(program('psql'), ['--quiet', '--no-psqlrc', '--single-transaction', '--set', 'ON_ERROR_STOP=1', '--output', '/dev/null', '--command', 'DROP SCHEMA public CASCADE; CREATE SCHEMA public', '--file', script, databaseUrl], { cwd: '/' })
    } catch (error) {
      throw new Trouble(`The database could not be restored: ${error.message}`, 'It is as it was before.')
    }
    return `from ${manifest.madeAt}; what was there is in ${before}`
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
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
