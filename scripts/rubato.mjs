import { createReadStream, createWriteStream, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { basename, dirname, resolve } from 'node:path'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { parseArgs } from 'node:util'
import { Trouble } from './shell.mjs'

/** Ends: all is well; something was found; it could not be done; it was asked for wrongly. */
const [WELL, FOUND, FAILED, WRONG] = [0, 1, 2, 64]
const RATES = { 23.976: [24000, 1001], 24: [24, 1], 25: [25, 1], 29.97: [30000, 1001], 30: [30, 1], 48: [48, 1], 50: [50, 1], 59.94: [60000, 1001], 60: [60, 1] }
const CUTS = { otio: 'otio', edl: 'edl', edls: 'edls', csv: 'marks', marks: 'marks' }
const SCENES = ['glb', 'camera', 'cameraJson']
const ART = ['ora', 'oraLevels', 'svg', 'pdf']
const RENDERED = ['mp4', 'mov', 'png', 'layers', 'wav', ...SCENES, ...ART]
/** What workers are asked where nothing else is said. */
const ASKED = { of: { kind: 'film' }, each: 'whole', handles: 0, priority: 0, author: 'terminal', look: { size: 1, sound: true, burnIn: { timecode: false, label: false, panel: false, take: false, version: false, date: false, captions: false, text: '', at: {}, size: 0.032 }, dress: { tone: 'drawn', aspect: null, border: 0, safe: false, mark: '', slate: 0, card: { text: '', frames: 0 } }, standIns: false, depth: null, clear: false, trim: false } }

const COMMANDS = {
  films: {
    usage: 'films [--shelf desk|archive|trash]',
    about: 'lists the films: id, shots, running time, title',
    options: { shelf: { type: 'string', default: 'desk' } },
    async run({ values }) {
      const films = (await ask(`/api/projects?shelf=${encodeURIComponent(values.shelf)}`)).map(({ project, shotCount, lengthFrames, updatedAt }) => ({ id: project.id, title: project.title, shots: shotCount, seconds: (lengthFrames * project.rate.denominator) / project.rate.numerator, updatedAt }))
      tell(films, () => (films.length === 0 ? 'There are no films.' : films.map(({ id, title, shots, seconds }) => `${id.padEnd(36)}  ${String(shots).padStart(5)} shots  ${clock(seconds).padStart(8)}  ${title}`).join('\n')))
      return WELL
    },
  },
  new: {
    usage: 'new TITLE [--rate 24] [--size 1920x1080]',
    about: 'makes a film with a first shot, and says its id',
    options: { rate: { type: 'string', default: '24' }, size: { type: 'string', default: '1920x1080' } },
    async run({ values, positionals: [title] }) {
      if (title === undefined) throw new Wrong('A new film needs a title.')
      const { project } = await ask('/api/projects', json({ title, ...shape(values), filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 48 }))
      tell({ id: project.id, title: project.title }, () => project.id)
      return WELL
    },
  },
  bring: {
    usage: 'bring FILE... [--rate 24] [--size 1920x1080]',
    about: 'takes films in: files of films (.rubato), or cuts (.otio, .edl) as new films; rate and size are for cuts that say none',
    options: { rate: { type: 'string', default: '24' }, size: { type: 'string', default: '1920x1080' } },
    async run({ values, positionals: files }) {
      if (files.length === 0) throw new Wrong('Say which files are to be brought in.')
      const made = []
      for (const file of files) made.push({ file, ...(await brought(there(file), values)) })
      tell(made, () => made.map(({ id, title, notes }) => [`${id}  ${title}`, ...notes.map((note) => `  ${note}`)].join('\n')).join('\n'))
      return WELL
    },
  },
  out: {
    usage: 'out FILM --as otio|edl|edls|csv|pdf|glb|camera|cameraJson|ora|oraLevels|svg [--to FILE] [--flat] [--movie NAME] [--shots 040-060]',
    about: 'writes a film’s cut: a timeline, edit lists, or its marks; --flat without panels inside shots, --movie the movie that stands beside it. Or its boards to print (pdf), and, a file a shot, its sets and cameras, its panels and levels as layers (OpenRaster), its drawings as lines (SVG): a worker makes these',
    options: { as: { type: 'string' }, to: { type: 'string' }, flat: { type: 'boolean', default: false }, movie: { type: 'string' }, shots: { type: 'string' } },
    async run({ values, positionals: [film] }) {
      if (SCENES.includes(values.as) || ART.includes(values.as)) return handedOver(await filmId(film), { ...ASKED, format: values.as, of: partOf(values.shots) }, values.to ?? '.')
      const as = CUTS[values.as ?? '']
      if (as === undefined) throw new Wrong(`--as is one of ${[...Object.keys(CUTS), ...SCENES, ...ART].join(', ')}.`)
      const query = new URLSearchParams({ as, nested: values.flat ? '0' : '1', ...(values.movie === undefined ? {} : { movie: values.movie }) })
      const response = await fetched(`/api/projects/${await filmId(film)}/cut?${query}`)
      const name = decodeURIComponent(/filename\*=UTF-8''(.+)$/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? `film.${values.as}`)
      const path = resolve(values.to ?? name)
      writeFileSync(path, Buffer.from(await response.arrayBuffer()))
      tell({ file: path, bytes: statSync(path).size }, () => path)
      return WELL
    },
  },
  conform: {
    usage: 'conform FILM FILE [--take all|ID,ID...]',
    about: 'says what a cut that came back (.otio, .edl) would change, and ends with 1 where it would; with --take it is taken',
    options: { take: { type: 'string' } },
    async run({ values, positionals: [film, file] }) {
      if (file === undefined) throw new Wrong('Say which film, and which cut.')
      const path = there(file)
      const take = values.take === undefined ? {} : { take: values.take === 'all' ? 'all' : values.take.split(',') }
      const found = await ask(`/api/projects/${await filmId(film)}/conform`, json({ fileName: basename(path), text: readFileSync(path, 'utf8'), author: 'terminal', ...take }))
      tell(found, () => [...found.notes, ...found.lines.map(({ id, kind, about, says }) => `${kind.padEnd(11)} ${about.padEnd(20)} ${says}  (${id})`), found.lines.length === 0 ? 'The film is cut just so already.' : values.take === undefined ? `${found.lines.length} lines. Nothing has been changed.` : `${found.taken} of ${found.lines.length} lines are taken.`].join('\n'))
      return values.take === undefined && found.lines.length > 0 ? FOUND : WELL
    },
  },
  check: {
    usage: 'check FILM [--shots 040-060]',
    about: 'looks where art runs out or paper shows, shot by shot, reads the cuts (eye, size, direction, line, camera, length), and ends with 1 where something is found that is not meant so; a worker does it',
    options: { shots: { type: 'string' } },
    async run({ values, positionals: [film] }) {
      const id = await filmId(film)
      const render = await rendered(id, { ...ASKED, format: 'check', of: partOf(values.shots) })
      const found = await ask(`/api/projects/${id}/renders/${render.id}/files/0`)
      await fetched(`/api/projects/${id}/renders/${render.id}`, { method: 'DELETE' })
      const so = (meant) => (meant === null ? '' : ` (meant so${meant === '' ? '' : `: ${meant}`})`)
      const lines = found.shots.flatMap(({ shot, findings, cuts }) => [
        ...cuts.flatMap(({ cut, readings }) => readings.filter(({ verdict }) => verdict !== 'well').map(({ says, meant }) => `${cut.padEnd(10)} ${says}${so(meant)}`)),
        ...findings.map(({ says, meant }) => `${shot.padEnd(10)} ${says}${so(meant)}`),
      ])
      tell(found, () => [...lines, found.open === 0 ? `Nothing is open in ${found.shots.length} shots.` : `${found.open} findings in ${found.shots.length} shots.`].join('\n'))
      return found.open === 0 ? WELL : FOUND
    },
  },
  render: {
    usage: `render FILM --as ${RENDERED.join('|')} [--shots 040-060] [--size 1|0.5|0.25] [--each-shot] [--handles 12] [--silent] [--clear] [--trim] [--burn timecode,label,panel,captions] [--to FOLDER] [--first|--last] [--no-wait]`,
    about: 'has the server’s workers make movies, pictures, sound, or what is in 3D, and saves what they made; --clear is paper that is see-through, --trim each level’s pictures cut down to what is seen of it, --first and --last are before or after other renders',
    options: {
      as: { type: 'string' },
      shots: { type: 'string' },
      size: { type: 'string', default: '1' },
      'each-shot': { type: 'boolean', default: false },
      handles: { type: 'string', default: '0' },
      silent: { type: 'boolean', default: false },
      clear: { type: 'boolean', default: false },
      trim: { type: 'boolean', default: false },
      burn: { type: 'string', default: '' },
      to: { type: 'string', default: '.' },
      first: { type: 'boolean', default: false },
      last: { type: 'boolean', default: false },
      'no-wait': { type: 'boolean', default: false },
    },
    async run({ values, positionals: [film] }) {
      if (!RENDERED.includes(values.as)) throw new Wrong(`--as is one of ${RENDERED.join(', ')}.`)
      const burnt = values.burn.split(',').filter((each) => each !== '')
      const burns = Object.keys(ASKED.look.burnIn).filter((key) => ASKED.look.burnIn[key] === false)
      const unknown = burnt.find((each) => !burns.includes(each))
      if (unknown !== undefined) throw new Wrong(`--burn takes ${burns.join(', ')}; not ${unknown}.`)
      if (!['1', '0.5', '0.25'].includes(values.size)) throw new Wrong('--size is 1, 0.5 or 0.25.')
      if (!/^\d+$/.test(values.handles)) throw new Wrong('--handles is a whole number of frames.')
      const id = await filmId(film)
      const look = { ...ASKED.look, size: Number(values.size), sound: !values.silent, clear: values.clear, trim: values.trim, burnIn: { ...ASKED.look.burnIn, ...Object.fromEntries(burnt.map((key) => [key, true])) } }
      const asked = { ...ASKED, format: values.as, of: partOf(values.shots), each: values['each-shot'] ? 'shot' : 'whole', handles: Number(values.handles), look, priority: values.first ? 1 : values.last ? -1 : 0 }
      if (values['no-wait']) {
        const made = await ask(`/api/projects/${id}/renders`, json(asked))
        tell(made, () => made.id)
        return WELL
      }
      return handedOver(id, asked, values.to)
    },
  },
  backup: {
    usage: 'backup FILM [--to FILE]',
    about: 'keeps a film whole as one file (.rubato); all films at once: ./start --backup FILE',
    options: { to: { type: 'string' } },
    async run({ values, positionals: [film] }) {
      const response = await fetched(`/api/projects/${await filmId(film)}/archive`)
      const name = decodeURIComponent(/filename\*=UTF-8''(.+)$/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? 'film.rubato')
      const path = resolve(values.to ?? name)
      await pipeline(Readable.fromWeb(response.body), counted('saved'), createWriteStream(path))
      tell({ file: path, bytes: statSync(path).size }, () => path)
      return WELL
    },
  },
}

const HELP = `Rubato, from the terminal

${Object.values(COMMANDS).map(({ usage, about }) => `  ./rubato ${usage}\n      ${about}`).join('\n')}

  --json    what is found as JSON, on every command
  --help    this text, or that of a command

FILM is a film's id, or its title where only one is called so.

  RUBATO_ADDRESS    the server (http://127.0.0.1:3400, or RUBATO_PORT)
  RUBATO_SECRET     what it asks for, where it does

Ends with 0; 1 where something is found; 2 where it could not be done; 64 where it was asked for wrongly.`

class Wrong extends Error {}
const address = (process.env.RUBATO_ADDRESS ?? `http://127.0.0.1:${process.env.RUBATO_PORT ?? 3400}`).replace(/\/$/, '')
let asJson = false
let cookie = ''
const json = (value) => ({ method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(value) })
const tell = (value, words) => process.stdout.write(`${asJson ? JSON.stringify(value) : words()}\n`)
const clock = (seconds) => `${Math.floor(seconds / 60)}:${String(Math.round(seconds % 60)).padStart(2, '0')}`

const away = () => new Trouble(`No Rubato answers at ${address}.`, 'Start it with ./start, or say where it is with RUBATO_ADDRESS.')
async function fetched(path, init = {}) {
  // Before anything is sent: what is streamed can't be sent twice.
  if (cookie === '' && process.env.RUBATO_SECRET) await signIn()
  let response
  try {
    response = await fetch(address + path, { ...init, headers: { ...init.headers, ...(cookie === '' ? {} : { cookie }) } })
  } catch {
    throw away()
  }
  if (response.ok) return response
  const said = await response.json().catch(() => null)
  throw new Trouble(said?.message ?? `The server answered ${response.status}.`, response.status === 401 ? 'Say its secret with RUBATO_SECRET.' : 'Nothing was changed.')
}
const ask = async (path, init) => (await fetched(path, init)).json()
async function signIn() {
  const response = await fetch(`${address}/api/sign-in`, json({ secret: process.env.RUBATO_SECRET })).catch(() => {
    throw away()
  })
  if (!response.ok) throw new Trouble((await response.json().catch(() => null))?.message ?? 'The secret was not taken.', 'Ask whoever runs the server.')
  cookie = response.headers.getSetCookie().map((each) => each.split(';')[0]).join('; ') || 'none=1'
}

async function filmId(named) {
  if (named === undefined) throw new Wrong('Say which film, by its id or its title.')
  const films = await ask('/api/projects?shelf=desk')
  const found = films.filter(({ project }) => project.id === named)
  const titled = found.length > 0 ? found : films.filter(({ project }) => project.title.toLowerCase() === named.toLowerCase())
  if (titled.length === 1) return titled[0].project.id
  throw new Trouble(titled.length === 0 ? `There is no film ${named} on the desk.` : `${titled.length} films are called ${named}.`, './rubato films lists them with their ids.')
}

function there(file) {
  if (!existsSync(file)) throw new Trouble(`There is no file ${file}.`, 'Nothing was brought in from it.')
  return resolve(file)
}

function shape({ rate, size }) {
  const known = RATES[Number(rate)]
  const match = /^(\d+)x(\d+)$/.exec(size)
  if (known === undefined) throw new Wrong(`--rate is one of ${Object.keys(RATES).map(Number).sort((a, b) => a - b).join(', ')}.`)
  if (match === null) throw new Wrong('--size is width x height, like 1920x1080.')
  return { rate: { numerator: known[0], denominator: known[1] }, widthPx: Number(match[1]), heightPx: Number(match[2]) }
}

async function brought(path, values) {
  if (/\.(otio|edl)$/i.test(path)) {
    const { card, notes } = await ask('/api/cuts', json({ fileName: basename(path), text: readFileSync(path, 'utf8'), ...shape(values) }))
    return { id: card.project.id, title: card.project.title, notes }
  }
  if (!/\.rubato$/i.test(path)) throw new Trouble(`${basename(path)} is neither a film’s own file (.rubato) nor a cut (.otio, .edl).`, 'Nothing was brought in from it.')
  const { project } = await ask('/api/archives', { method: 'POST', body: Readable.toWeb(createReadStream(path).pipe(counted('sent', statSync(path).size))), duplex: 'half' })
  return { id: project.id, title: project.title, notes: [] }
}

const partOf = (shots) => {
  if (shots === undefined) return { kind: 'film' }
  // A label with a dash in it: --shots 040-A..060.
  const [from, to = from] = shots.split(shots.includes('..') ? '..' : '-')
  return { kind: 'shots', from, to }
}

const LOOK_EVERY_MS = 500
/** A render from being asked for until it is there. Left before that it goes on; with Ctrl-C it is cancelled. */
async function rendered(film, asked) {
  const { id } = await ask(`/api/projects/${film}/renders`, json(asked))
  const shown = process.stderr.isTTY === true && !asJson
  const cancel = () => void fetched(`/api/projects/${film}/renders/${id}`, { method: 'DELETE' }).catch(() => undefined).then(() => process.exit(130))
  process.once('SIGINT', cancel)
  let warned = false
  try {
    for (;;) {
      const render = (await ask(`/api/projects/${film}/renders`)).find((each) => each.id === id)
      if (render === undefined) throw new Trouble('The render was taken off the list.', 'Ask for it again.')
      if (render.state === 'done') return render
      if (render.state === 'failed') throw new Trouble(render.why ?? 'It could not be made.', 'Nothing was saved.')
      if (render.state === 'cancelled') throw new Trouble('It was cancelled.', 'Nothing was saved.')
      if (render.workers === 0 && !warned) {
        warned = true
        process.stderr.write('No worker runs: it waits until one is started (./start worker).\n')
      }
      if (shown) process.stderr.write(`\r${render.frames > 0 ? `frame ${render.doneFrames} of ${render.frames}` : `${render.donePieces} of ${render.pieces}`}, ${render.atWork} workers at it   `)
      await new Promise((done) => setTimeout(done, LOOK_EVERY_MS))
    }
  } finally {
    process.off('SIGINT', cancel)
    if (shown) process.stderr.write('\r\x1b[K')
  }
}

/** Has workers make what is asked, and saves its files in a folder. */
async function handedOver(film, asked, folder) {
  const render = await rendered(film, asked)
  const files = []
  for (const { number, name } of render.files) files.push(await saved(`/api/projects/${film}/renders/${render.id}/files/${number}`, resolve(folder, name)))
  tell({ render: render.id, files }, () => files.map(({ file }) => file).join('\n'))
  return WELL
}

async function saved(path, file) {
  const response = await fetched(path)
  mkdirSync(dirname(file), { recursive: true })
  await pipeline(Readable.fromWeb(response.body), counted('saved', Number(response.headers.get('content-length'))), createWriteStream(file))
  return { file, bytes: statSync(file).size }
}

/** Says how far it is, on a terminal. */
function counted(word, total = null) {
  let [bytes, told] = [0, 0]
  const shown = process.stderr.isTTY === true && !asJson
  return new Transform({
    transform(chunk, _, done) {
      bytes += chunk.length
      if (shown && Date.now() - told > 200) {
        told = Date.now()
        process.stderr.write(`\r${(bytes / 1e6).toFixed(1)} MB ${word}${total === null ? '' : ` of ${(total / 1e6).toFixed(1)}`} `)
      }
      done(null, chunk)
    },
    flush(done) {
      if (shown) process.stderr.write('\r\x1b[K')
      done()
    },
  })
}

async function main([name, ...args]) {
  if (name === undefined || name === '--help' || name === '-h' || name === 'help') {
    process.stdout.write(`${HELP}\n`)
    return name === undefined ? WRONG : WELL
  }
  const command = Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : null
  if (command === null) throw new Wrong(`There is no command ${name}.`)
  let parsed
  try {
    parsed = parseArgs({ args, allowPositionals: true, options: { ...command.options, json: { type: 'boolean', default: false }, help: { type: 'boolean', short: 'h', default: false } } })
  } catch (error) {
    throw new Wrong(error.message)
  }
  asJson = parsed.values.json
  if (parsed.values.help) {
    process.stdout.write(`./rubato ${command.usage}\n\n${command.about}\n`)
    return WELL
  }
  return command.run(parsed)
}

main(process.argv.slice(2)).then(
  (code) => (process.exitCode = code),
  (error) => {
    const wrong = error instanceof Wrong
    const what = error instanceof Trouble || wrong ? error.message : `It could not be done: ${error.message}`
    if (asJson) process.stdout.write(`${JSON.stringify({ error: what })}\n`)
    process.stderr.write(`${what}\n${error.now ?? (wrong ? './rubato --help says how.' : '')}\n`)
    process.exitCode = wrong ? WRONG : FAILED
  },
)
