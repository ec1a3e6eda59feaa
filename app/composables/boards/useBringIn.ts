import { holdable, shorten } from '@rubato/core/document'
import { bringAsLevels, bringAsPanels, bringAsShot, bringBack, drawingsOfLevel, redraw, sameJson, type BroughtBoard, type BroughtLayer, type Edit, type Made, type NewMark, type PaintedBack } from '@rubato/core/edits'
import type { Film } from '@rubato/core/document'
import type { SvgWay } from '@rubato/core/interchange'
import { ref, shallowRef } from 'vue'
import { ASSET_LIMITS, type StoredAsset } from '#shared/assets'
import { api, pictureBase } from '~/api/client'
import { uploadFile } from '~/api/upload'
import { MOST_FILES, sortOf } from '~/boards/droppedFiles'
import { fwPerPx, placeOf, type Fit } from '~/boards/fitPicture'
import { safeSvg } from '~/boards/safeSvg'
import { picturesIn, readSvgMarks } from '~/boards/svgMarks'
import { bringJobs } from '~/clients/bringJobs'
import { sameArtJobs } from '~/clients/sameArtJobs'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { quoted } from '~/text/quoted'
import type { BroughtBack, BroughtRaster } from '~/workers/messages'

/** A file that was looked at: ready to be brought in, or not, and why. */
export interface BringItem {
  readonly name: string
  readonly file: File
  readonly layers: readonly BroughtRaster[] | null
  readonly canvas: { readonly widthPx: number; readonly heightPx: number } | null
  /** A small picture of it; null for layered files. */
  readonly thumb: ImageBitmap | null
  readonly note: string | null
  readonly bad: string | null
  /** Of a file that went out to be painted: what of it finds back. */
  readonly back: readonly BackItem[]
  /** Of an SVG: its lines, which can be drawn on; null where there are none. */
  readonly lines: SvgLines | null
}
/** Lines of a file, and the drawing that they went out from, where that is in the film; `why` it can't be changed, else null. */
export interface SvgLines {
  readonly text: string
  /** Pictures that it names and that are not at hand. */
  readonly missing: ReadonlySet<string>
  readonly count: number
  readonly leftOut: readonly string[]
  readonly back: (SvgWay & { readonly name: string; readonly where: string; readonly why: string | null }) | null
}
/** A drawing that was painted, and where it goes, empty where it is not of this film; `why` it can't, else null. */
export interface BackItem extends BroughtBack {
  readonly where: string
}
export type BringAs = 'shot' | 'panels' | 'levels'
export type BringState =
  | { readonly kind: 'idle' }
  | { readonly kind: 'looking'; readonly done: number; readonly total: number }
  | { readonly kind: 'ready' }
  | { readonly kind: 'bringing'; readonly done: number; readonly total: number; readonly name: string }

const AT_ONCE = 3
const THUMB_PX = 120
const baseName = (name: string) => shorten(holdable(name).replace(/\.[^.]+$/, ''), 120) || 'Picture'

const state = ref<BringState>({ kind: 'idle' })
const items = shallowRef<readonly BringItem[]>([])
const leftOut = shallowRef<readonly { readonly name: string; readonly why: string }[]>([])
const as = ref<BringAs>('shot')
const fit = ref<Fit>('frame')
/** Whether what finds back goes back, and what lay there stays under it as a reference. */
const goesBack = ref(true)
const keepsRough = ref(true)
/** Whether what an SVG has stays lines. */
const staysLines = ref(true)
let gate = new AbortController()

/** Brings pictures and layered files in: looked at first, then taken in together as one change, or not at all. */
export function useBringIn() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const boards = useBoardsStore()

  async function look(files: readonly File[]) {
    if (film.lookingAt !== null) return film.refuse('This is a version to look at: nothing can be brought into it.')
    gate = new AbortController()
    const mine = gate
    items.value = []
    leftOut.value = files.length > MOST_FILES ? [{ name: `${files.length - MOST_FILES} more files`, why: `At most ${MOST_FILES} are brought in at once.` }] : []
    const wanted = files.slice(0, MOST_FILES)
    state.value = { kind: 'looking', done: 0, total: wanted.length }
    const found: BringItem[] = []
    for (const [index, file] of wanted.entries()) {
      found.push(await lookAt(file, mine.signal).catch((error: Error): BringItem => ({ name: file.name, file, layers: null, canvas: null, thumb: null, note: null, bad: error.message, back: [], lines: null })))
      if (mine.signal.aborted) return
      state.value = { kind: 'looking', done: index + 1, total: wanted.length }
    }
    items.value = found
    goesBack.value = keepsRough.value = true
    // Among pictures an SVG is one more of them.
    staysLines.value = found.every(({ bad, lines }) => bad !== null || (lines !== null && lines.leftOut.length === 0))
    as.value = desk.view === 'desk' ? 'levels' : found.filter((item) => item.bad === null).length === 1 && boards.current !== null ? 'levels' : 'shot'
    state.value = { kind: 'ready' }
  }

  async function lookAt(file: File, signal: AbortSignal): Promise<BringItem> {
    const plain = { name: file.name, file, layers: null, canvas: null, thumb: null, note: null, bad: null, back: [], lines: null }
    const sort = sortOf(file)
    if (file.size === 0) throw new Error('It is empty.')
    if (sort === 'layered') {
      const answer = await bringJobs.run(file, { signal }).catch((error: Error) => {
        throw new Error(`It can’t be opened: ${error.message}.`, { cause: error })
      })
      const back = await Promise.all(answer.back.map(whereItGoes))
      signal.throwIfAborted()
      if (answer.layers.length === 0) throw new Error('It has no layers with pixels.')
      const mixed = answer.layers.filter(({ layer }) => layer.mixing !== null)
      const notes = [
        ...(answer.skipped.length > 0 ? [`left out, without pixels: ${answer.skipped.join(', ')}`] : []),
        ...(answer.seen.length > 0 ? [`left out, as these are turned in the picture: ${answer.seen.map((name) => name.replace(/, as seen$/, '')).join(', ')}`] : []),
        ...(mixed.length > 0 ? [`mixed plainly here: ${mixed.map(({ layer }) => layer.name).join(', ')}`] : []),
      ]
      return { ...plain, layers: answer.layers, canvas: answer.stack, back, note: notes.length === 0 ? null : notes.join('; ') }
    }
    if (file.size > ASSET_LIMITS.pictureBytes) throw new Error(`It is larger than ${ASSET_LIMITS.pictureBytes / 1024 ** 2} MB.`)
    if (sort === 'lines') {
      const safe = await safeSvg(file)
      const text = await safe.text()
      try {
        const missing = new Set<string>()
        for (const hash of picturesIn(text)) if (!(await isThere(hash, signal))) missing.add(hash)
        const { marks, way, leftOut } = readSvgMarks(text, { placeOf: placeForSvg, has: (hash) => !missing.has(hash) })
        return { ...plain, file: safe, lines: { text, missing, count: marks.length, leftOut, back: way === null ? null : await whereLinesGo(way, marks) } }
      } catch {
        // What has no lines is a picture still.
        return { ...plain, file: safe }
      }
    }
    if (sort !== 'picture') throw new Error('It is not a PNG, JPEG, WebP or SVG picture, nor an OpenRaster file.')
    const thumb = await createImageBitmap(file, { resizeWidth: THUMB_PX, resizeQuality: 'medium' }).catch(() => null)
    if (thumb === null) throw new Error('It is damaged, or not what its name says.')
    return { ...plain, thumb }
  }

  /** What was painted or drawn on, and whose it is, brought in to be changed. */
  async function here({ way: { owner, drawingId } }: { readonly way: Pick<SvgWay, 'owner' | 'drawingId'> }): Promise<void> {
    if (owner.kind === 'take') return film.ensureTakeWithArt(owner.id)
    await film.ensure('set', [owner.id])
    await film.ensure('drawing', [drawingId])
  }

  async function isThere(hash: string, signal: AbortSignal): Promise<boolean> {
    const { ok, body } = await fetch(`/api/pictures/${hash}`, { signal })
    void body?.cancel()
    return ok
  }

  /** Of a file that doesn’t say: its middle in the frame’s, as large as was chosen. */
  function placeForSvg(widthPx: number, heightPx: number) {
    const { project } = film
    const scale = fwPerPx(fit.value === 'pixels' ? 'frame' : fit.value, { widthPx, heightPx }, { widthPx: project?.widthPx ?? 1920, heightPx: project?.heightPx ?? 1080 })
    return { pxPerFw: 1 / scale, left: (-widthPx / 2) * scale, top: (heightPx / 2) * scale }
  }

  /** Looks up whose drawing went out as lines; null where it is not in the film any more. */
  async function whereLinesGo(way: SvgWay, marks: readonly NewMark[]): Promise<SvgLines['back']> {
    const { owner, levelId, drawingId } = way
    const shot = owner.kind === 'take' ? film.outline.shots[film.outline.takes[owner.id]?.shotId ?? ''] : undefined
    const set = owner.kind === 'set' ? film.outline.sets[owner.id] : undefined
    if (shot === undefined && set === undefined) return null
    await here({ way })
    const level = owner.kind === 'take' ? film.film.takes[owner.id]?.levels[levelId] : film.film.sets?.[owner.id]?.pieces[levelId]
    if (level === undefined || !drawingsOfLevel(film.film, owner, levelId).has(drawingId)) return null
    return { ...way, name: level.name, where: set === undefined ? `${quoted(level.name)} of shot ${shot!.label}` : `${quoted(level.name)} of the set ${quoted(set.name)}, in all its shots`, why: isAsDrawn(drawingId, marks) ? 'it is as it went out' : level.locked ? 'it is locked: unlock it in the rack, then drop the file again' : null }
  }

  function isAsDrawn(drawingId: string, marks: readonly NewMark[]): boolean {
    const drawn = film.drawingOf(drawingId)?.marks ?? []
    return drawn.length === marks.length && marks.every((mark, i) => sameJson({ ...mark, order: drawn[i]!.order }, drawn[i]))
  }

  /** Looks up whose drawing was painted. */
  async function whereItGoes(found: BroughtBack): Promise<BackItem> {
    const { owner, levelId, drawingId } = found.way
    const lost = (why: string): BackItem => ({ ...found, where: '', picture: null, why })
    const shot = owner.kind === 'take' ? film.outline.shots[film.outline.takes[owner.id]?.shotId ?? ''] : undefined
    const set = owner.kind === 'set' ? film.outline.sets[owner.id] : undefined
    if (shot === undefined && set === undefined) return lost('it is not of this film, or its shot was taken out')
    await here(found)
    const level = owner.kind === 'take' ? film.film.takes[owner.id]?.levels[levelId] : film.film.sets?.[owner.id]?.pieces[levelId]
    if (level === undefined) return lost('its level was taken out')
    if (!drawingsOfLevel(film.film, owner, levelId).has(drawingId)) return lost(`${quoted(level.name)} does not show that drawing any more`)
    const where = set === undefined ? `${quoted(level.name)} of shot ${shot!.label}` : `${quoted(level.name)} of the set ${quoted(set.name)}, in all its shots`
    const drawing = film.drawingOf(drawingId)
    if (found.picture !== null && found.added.length === 0 && drawing !== null && drawing.marks.length > 0) {
      const { blob, ...place } = found.picture
      const same = await sameArtJobs.run({ drawing, picture: blob, ...place, pictureBase: pictureBase() })
      if (same) return { ...found, where, picture: null, why: 'it is as it went out' }
    }
    if (found.picture !== null && level.locked) return { ...found, where, picture: null, why: 'it is locked: unlock it in the rack, then drop the file again' }
    return { ...found, where }
  }

  function cancel() {
    gate.abort(new Error('Cancelled.'))
    for (const item of items.value) item.thumb?.close()
    items.value = []
    state.value = { kind: 'idle' }
  }

  async function bring() {
    const { project } = film
    if (project === null) return
    const mine = gate
    const good = items.value.filter((item) => item.bad === null)
    const missed = [...leftOut.value, ...items.value.flatMap((item) => (item.bad === null ? [] : [{ name: item.name, why: item.bad }]))]
    interface Going {
      readonly item: BringItem
      readonly blob: Blob
      readonly layer: BroughtRaster | null
      readonly back: BackItem | null
    }
    const uploads = good.flatMap((item): Going[] =>
      areLines(item) || staysOut(item) ? [] : returns(item)
        ? item.back.flatMap((back) => (back.picture === null ? [] : [{ item, blob: back.picture.blob, layer: null, back }]))
        : (item.layers?.map((layer) => ({ item, blob: layer.blob, layer, back: null })) ?? [{ item, blob: item.file as Blob, layer: null, back: null }]),
    )
    for (const { back } of good.filter(returns)) missed.push(...back.flatMap(({ name, why }) => (why === null ? [] : [{ name, why }])))
    const stored = new Map<Going, StoredAsset>()
    const taken: StoredAsset[] = []
    let done = 0
    state.value = { kind: 'bringing', done, total: uploads.length, name: good[0]?.name ?? '' }
    const queue = [...uploads]
    const failed = new Map<BringItem, string>()
    const work = async () => {
      for (let next = queue.shift(); next !== undefined && !mine.signal.aborted; next = queue.shift()) {
        if (failed.has(next.item)) continue
        try {
          const asset = await uploadFile(next.blob, 'picture', () => undefined, mine.signal)
          stored.set(next, asset)
          if (asset.fresh) taken.push(asset)
        } catch (error) {
          if (mine.signal.aborted) return
          failed.set(next.item, (error as Error).message)
        }
        state.value = { kind: 'bringing', done: ++done, total: uploads.length, name: next.item.name }
      }
    }
    await Promise.all(Array.from({ length: AT_ONCE }, work))
    if (mine.signal.aborted) {
      // What went up is let go of, so that nothing is left behind.
      void api.forgetUnused(taken.filter((asset) => asset.fresh)).catch(() => undefined)
      return
    }
    for (const [item, why] of failed) missed.push({ name: item.name, why })
    const redrawn = good.filter(redraws)
    const marksOf = ({ text, missing: gone }: SvgLines) => readSvgMarks(text, { placeOf: placeForSvg, has: (hash) => !gone.has(hash) }).marks
    const output = { widthPx: project.widthPx, heightPx: project.heightPx }
    const made: BroughtBoard[] = good.flatMap((item): BroughtBoard[] => {
      if (failed.has(item) || returns(item) || redraws(item) || staysOut(item)) return []
      if (areLines(item)) return [{ name: baseName(item.name), layers: [{ name: as.value === 'levels' ? baseName(item.name) : 'Lines', picture: marksOf(item.lines!), opacity: 1, visible: true }] }]
      const own = uploads.filter((upload) => upload.item === item)
      const layers = own.map((upload): BroughtLayer => {
        const asset = stored.get(upload)!
        const size = { widthPx: asset.widthPx, heightPx: asset.heightPx }
        const canvas = item.canvas ?? size
        const at = { x: upload.layer?.layer.x ?? 0, y: upload.layer?.layer.y ?? 0, ...size }
        // Lines have no pixels of their own to be shown one to one.
        const scale = fwPerPx(fit.value === 'pixels' && asset.type === 'image/svg+xml' ? 'frame' : fit.value, canvas, output)
        return {
          name: upload.layer?.layer.name ?? (as.value === 'levels' ? baseName(item.name) : 'Picture'),
          picture: { assetHash: asset.hash, ...size, ...placeOf(at, canvas, scale) },
          opacity: upload.layer?.layer.opacity ?? 1,
          visible: upload.layer?.layer.visible ?? true,
        }
      })
      return [{ name: baseName(item.name), layers }]
    })
    for (const item of items.value) item.thumb?.close()
    items.value = []
    leftOut.value = missed
    const painted = [...stored].flatMap(([{ item, back }, { hash, widthPx, heightPx }]) => (back === null || failed.has(item) ? [] : [{ back, picture: { assetHash: hash, widthPx, heightPx, x: back.picture!.x, y: back.picture!.y, widthFw: back.picture!.widthFw } }]))
    // They may have left memory while files went up.
    await Promise.all([...painted.map(({ back }) => here(back)), ...redrawn.map(({ lines }) => here({ way: lines!.back! }))]).catch(() => undefined)
    const drawnBack = redrawn.length > 0 && drawBack(redrawn.map(({ lines }) => ({ back: lines!.back!, marks: marksOf(lines!) })))
    const came = (painted.length > 0 && placeBack(painted)) || drawnBack
    if (made.length > 0) place(made)
    if (made.length === 0 && !came) void api.forgetUnused(taken).catch(() => undefined)
    state.value = { kind: 'idle' }
    if (painted.length > 0 && !came) return
    if (missed.length > 0) film.refuse(`${made.length === 0 && !came ? 'Nothing was brought in' : 'The rest came in'}. Left out: ${missed.slice(0, 4).map(({ name, why }) => `“${name}” (${why.replace(/\.$/, '')})`).join(', ')}${missed.length > 4 ? ` and ${missed.length - 4} more` : ''}.`)
  }

  /** Whether what it has is brought in as lines. */
  const areLines = (item: BringItem) => staysLines.value && item.lines !== null
  /** Whether its lines take the place of those that went out. */
  const redraws = (item: BringItem) => areLines(item) && goesBack.value && item.lines!.back !== null && item.lines!.back.why === null

  function drawBack(drawn: readonly { readonly back: NonNullable<SvgLines['back']>; readonly marks: readonly NewMark[] }[]): boolean {
    return film.perform(drawn.length === 1 ? `lines of ${drawn[0]!.back.name}` : `lines of ${drawn.length} drawings`, (f) => {
      const edits: Edit[] = []
      for (const { back, marks } of drawn) {
        const made = redraw(f, back.owner, back.levelId, back.drawingId, marks)
        if (!made.ok) return made
        edits.push(...made.edits)
      }
      return { ok: true, edits }
    })
  }

  /** Whether a file that went out from this film has nothing to bring back: it is no new art, either. */
  const staysOut = (item: BringItem) => goesBack.value && !returns(item) && !redraws(item) && (item.back.some(({ where }) => where !== '') || (areLines(item) && item.lines!.back !== null))

  /** Whether a file's art goes back to where it came from. */
  const returns = (item: BringItem) => goesBack.value && item.back.some(({ picture }) => picture !== null)

  /** As one step: of each level of whom it is. */
  function placeBack(painted: readonly { readonly back: BackItem; readonly picture: PaintedBack['picture'] }[]): boolean {
    const owners = new Map(painted.map(({ back: { way } }) => [`${way.owner.kind} ${way.owner.id}`, way.owner]))
    const names = [...new Set(painted.map(({ back }) => back.name))]
    return film.perform(names.length === 1 ? `painted: ${names[0]}` : `painted: ${names.length} levels`, (f) => {
      const edits: Edit[] = []
      for (const owner of owners.values()) {
        const made = bringBack(f, owner, painted.flatMap(({ back: { way }, picture }) => (way.owner.kind === owner.kind && way.owner.id === owner.id ? [{ levelId: way.levelId, drawingId: way.drawingId, picture }] : [])), keepsRough.value, () => crypto.randomUUID())
        if (!made.ok) return made
        edits.push(...made.edits)
      }
      return { ok: true, edits }
    })
  }

  function place(made: readonly BroughtBoard[]) {
    const project = film.project!
    const newId = () => crypto.randomUUID()
    const current = boards.current ?? (desk.takeId === null || desk.placedPanel === null ? null : { takeId: desk.takeId, panelId: desk.placedPanel.panel.id })
    const shot = desk.placedShot?.shot
    const layers = made.flatMap((board) => board.layers)
    const before = new Set(film.filmStage.shots.map((placed) => placed.shot.id))
    const known = new Set(Object.keys(current === null ? {} : (film.takeOf(current.takeId)?.panels ?? {})))
    const label = as.value === 'levels' ? (layers.length === 1 ? `bring in ${layers[0]!.name}` : `bring in ${layers.length} levels`) : made.length === 1 ? `bring in ${made[0]!.name}` : `bring in ${made.length} panels`
    const done = film.perform(label, (f: Film): Made => {
      if (as.value === 'levels' && current !== null) return bringAsLevels(f.takes[current.takeId]!, current.takeId, current.panelId, layers, newId)
      if (as.value === 'panels' && current !== null) return bringAsPanels(f.takes[current.takeId]!, current.takeId, current.panelId, made, project.defaultPanelFrames, newId)
      const sequenceId = shot?.sequenceId ?? Object.keys(f.outline.sequences)[0]!
      return bringAsShot(f, project.id, sequenceId, shot?.id ?? null, made, project.defaultPanelFrames, newId)
    })
    if (!done) return
    const shown = as.value === 'shot' ? film.filmStage.shots.find((placed) => !before.has(placed.shot.id))?.shot.circledTakeId : current?.takeId
    if (shown === undefined || as.value === 'levels') return
    const fresh = boards.panelsOf(shown).filter((panel) => as.value === 'shot' || !known.has(panel.id))
    if (fresh.length === 0) return
    boards.panels = fresh.map((panel) => ({ takeId: shown, panelId: panel.id }))
    boards.goToPanel(boards.panels[0]!)
    boards.show(boards.panels[0]!)
  }

  return { state, items, as, fit, goesBack, keepsRough, staysLines, returns, redraws, staysOut, look, bring, cancel }
}
