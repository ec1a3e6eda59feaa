import { placedPanels, type Clip, type Lane, holdable, shorten } from '@rubato/core/document'
import { addClips, addLane, duplicateClips, editClip, editLane, moveLane, removeClips, removeLane, retime, splitClip, tieClips, type Made } from '@rubato/core/edits'
import { proposeSplits } from '@rubato/core/sound'
import { framesPerSecond, secondsOfFrames } from '@rubato/core/time'
import { shallowRef } from 'vue'
import { ASSET_LIMITS, type StoredAsset } from '#shared/assets'
import { api } from '~/api/client'
import { uploadFile } from '~/api/upload'
import { usePeaksStore } from '~/stores/peaks'
import { useTiming } from '~/composables/strip/useTiming'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'

export interface BringingSound {
  readonly name: string
  readonly phase: 'reading' | 'sending'
  readonly share: number
  readonly number: number
  readonly of: number
  readonly cancel: () => void
}

/** What a clip says besides its recording. */
export type Spoken = Pick<Clip, 'speaker' | 'line' | 'passageId' | 'panelId'>
const UNSPOKEN: Spoken = { speaker: '', line: '', passageId: null, panelId: null }

export const SOUND_FILES = ['.wav', '.flac', '.ogg', '.oga', '.opus', '.mp3', 'audio/wav', 'audio/flac', 'audio/ogg', 'audio/mpeg'] as const
export const isSoundFile = (file: File) => /\.(wav|wave|flac|ogg|oga|opus|mp3)$/i.test(file.name) || file.type.startsWith('audio/')
const KINDS: Readonly<Record<Lane['kind'], string>> = { voices: 'Voices', effects: 'Effects', music: 'Music' }

const bringing = shallowRef<BringingSound | null>(null)

/** What is done with sound: brought in, cut up, tied, and set against panels. */
export function useSound() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()
  const sound = useSoundStore()
  const peaks = usePeaksStore()
  const { giverAfter, reachAfter } = useTiming()
  const projectId = () => film.project!.id
  const rate = () => film.project!.rate
  const newId = () => crypto.randomUUID()

  /** The shot that a moment of the film is in; past its end, the last. */
  const shotAt = (frame: number) => film.filmStage.shotAt(Math.max(0, Math.floor(frame)))
  /** Where a clip that begins at a moment is tied, and its offset from there. */
  function tieAt(frame: number): Pick<Clip, 'shotId' | 'offsetFrames'> {
    const placed = shotAt(frame)
    return placed === null ? { shotId: null, offsetFrames: frame } : { shotId: placed.shot.id, offsetFrames: frame - placed.startFrame }
  }

  function newLane(kind: Lane['kind'], name = KINDS[kind]): string | null {
    const id = newId()
    const taken = new Set(sound.lanes.map((lane) => lane.name))
    let unique = name
    for (let n = 2; taken.has(unique); n++) unique = `${name} ${n}`
    const done = film.perform(`lane ${unique}`, (f) => addLane(f.outline, projectId(), { id, name: unique, kind, gainDb: 0, muted: false, soloed: false }))
    return done ? (sound.laneId = id) : null
  }

  function setLane(id: string, fields: Partial<Omit<Lane, 'id' | 'order'>>, gesture: string | null = null) {
    const lane = film.outline.lanes[id]
    if (lane === undefined) return false
    const label = fields.muted !== undefined ? `${fields.muted ? 'mute' : 'unmute'} ${lane.name}` : fields.soloed !== undefined ? `${fields.soloed ? 'solo' : 'no solo for'} ${lane.name}` : fields.gainDb !== undefined ? `gain of ${lane.name}` : `lane ${lane.name}`
    return film.perform(label, (f) => editLane(f.outline, projectId(), id, fields), gesture)
  }
  function dropLane(id: string) {
    const lane = film.outline.lanes[id]
    if (lane !== undefined && film.perform(`delete lane ${lane.name}`, (f) => removeLane(f.outline, projectId(), id))) sound.chooseNothing()
  }
  function shiftLane(id: string, by: 1 | -1) {
    const at = sound.lanes.findIndex((lane) => lane.id === id)
    const before = by < 0 ? sound.lanes[at - 1] : sound.lanes[at + 2]
    if (at < 0 || (by < 0 && before === undefined) || (by > 0 && at === sound.lanes.length - 1)) return
    orderLane(id, before?.id ?? null)
  }
  /** Puts a lane above another, or below all. */
  function orderLane(id: string, beforeId: string | null) {
    film.perform(`move lane ${film.outline.lanes[id]?.name ?? ''}`, (f) => moveLane(f.outline, projectId(), id, beforeId))
  }

  /** The lane for new sound of a kind; made where there is none. */
  function laneFor(kind: Lane['kind'], wanted: string | null = null): { readonly id: string; readonly made: Lane | null } {
    const there = sound.lanes.find((lane) => lane.id === wanted) ?? sound.lanes.find((lane) => lane.id === sound.laneId && (lane.kind === kind || wanted !== null)) ?? sound.lanes.find((lane) => lane.kind === kind) ?? null
    if (there !== null) return { id: there.id, made: null }
    const id = newId()
    return { id, made: { id, order: 'a0', name: KINDS[kind], kind, gainDb: 0, muted: false, soloed: false } }
  }

  /** Puts a recording that the server has at a frame of the film, in one step with the lane it needs. */
  function placeRecording(asset: Pick<StoredAsset, 'hash'>, seconds: number, name: string, frame: number, lane: { readonly id: string; readonly made: Lane | null }, spoken: Spoken = UNSPOKEN): string | null {
    const id = newId()
    const clip: Clip = { id, laneId: lane.id, ...tieAt(frame), assetHash: asset.hash, name: shorten(holdable(name), 200), sourceSeconds: seconds, fromSeconds: 0, lengthSeconds: seconds, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, ...spoken }
    const done = film.perform(`sound ${name}`, (f): Made => {
      if (lane.made === null) return addClips(f.outline, projectId(), [clip])
      const added = addLane(f.outline, projectId(), lane.made)
      if (!added.ok) return added
      const clips = addClips({ ...f.outline, lanes: { ...f.outline.lanes, [lane.id]: { ...lane.made, order: 'a0' } } }, projectId(), [clip])
      return clips.ok ? { ok: true, edits: [...added.edits, ...clips.edits] } : clips
    })
    if (!done) return null
    sound.laneId = lane.id
    sound.choose(id)
    return id
  }

  /** Brings recordings in one after the other, from a frame on; each is read to its end before anything is kept. */
  async function bring(files: readonly File[], frame = desk.playhead, laneId: string | null = null) {
    if (film.lookingAt !== null) return film.refuse('This is a version to look at: nothing can be brought into it.')
    if (film.project === null) return
    if (bringing.value !== null) return film.refuse('Recordings are being brought in already. Wait until they are in, or cancel that.')
    const opened = film.projectId
    const gate = new AbortController()
    let at = frame
    const failed: string[] = []
    const lane = { id: laneId }
    try {
      for (const [i, file] of files.entries()) {
        const tell = (phase: BringingSound['phase']) => (share: number) => (bringing.value = { name: file.name, phase, share, number: i + 1, of: files.length, cancel: () => gate.abort(new Error('Cancelled.')) })
        tell('reading')(0)
        try {
          if (file.size === 0) throw new Error('The file is empty.')
          if (file.size > ASSET_LIMITS.soundBytes) throw new Error(`The file is larger than ${ASSET_LIMITS.soundBytes / 1024 ** 2} MB.`)
          const made = await peaks.make(file, tell('reading'), gate.signal)
          tell('sending')(0)
          const asset = await uploadFile(file, 'sound', tell('sending'), gate.signal)
          if (opened !== film.projectId) return
          peaks.keep(asset.hash, made.peaks)
          const name = file.name.replace(/\.[^.]+$/, '') || 'Sound'
          // A lane that was asked for may be gone by now.
          if (placeRecording(asset, made.peaks.seconds, name, at, laneFor('voices', lane.id)) === null) await api.forgetUnused([asset]).catch(() => undefined)
          lane.id = sound.laneId
          at = Math.ceil(at + made.peaks.seconds * framesPerSecond(rate()))
        } catch (error) {
          if (gate.signal.aborted) return
          failed.push(`“${file.name}” was not brought in. ${(error as Error).message}`)
        }
      }
    } finally {
      bringing.value = null
      if (failed.length > 0) film.refuse(failed.length > 3 ? `${failed.slice(0, 3).join(' ')} And ${failed.length - 3} more.` : failed.join(' '))
    }
  }

  function pick(laneId: string | null = null) {
    const input = document.createElement('input')
    input.type = 'file'
    input.multiple = true
    input.accept = SOUND_FILES.join()
    input.onchange = () => void bring([...(input.files ?? [])], desk.playhead, laneId)
    input.click()
  }

  /** Takes in what was made or recorded here. */
  async function bringWave(wav: Blob, name: string, frame: number, spoken: Spoken, gate: AbortSignal): Promise<string | null> {
    const made = await peaks.make(wav, undefined, gate)
    const asset = await uploadFile(wav, 'sound', () => undefined, gate)
    peaks.keep(asset.hash, made.peaks)
    return placeRecording(asset, made.peaks.seconds, name, frame, laneFor('voices'), spoken)
  }

  const clipName = (clip: Clip) => clip.name || 'clip'
  const many = (clips: readonly Clip[]) => (clips.length === 1 ? clipName(clips[0]!) : `${clips.length} clips`)
  const chosenOr = (): readonly Clip[] | null => {
    if (sound.chosenClips.length > 0) return sound.chosenClips
    film.refuse('No clip is chosen. Click one in a lane of sound first.')
    return null
  }

  /** Splits the chosen clips at the playhead; those that it is not over are left. */
  function splitHere() {
    const clips = chosenOr()
    if (clips === null) return
    const at = secondsOfFrames(desk.playhead, rate())
    const over = clips.filter((clip) => {
      const placed = sound.placed.placeOf(clip.id)
      return placed !== null && at > placed.startSeconds && at < placed.endSeconds
    })
    if (over.length === 0) return film.refuse('A clip is split inside it. Put the playhead over the chosen clip first.')
    const ids = over.map(() => newId())
    film.perform(`split ${many(over)}`, (f) => all(over.map((clip, i) => splitClip(f.outline, projectId(), clip.id, [at - sound.placed.placeOf(clip.id)!.startSeconds], [ids[i]!], rate()))))
    // The later parts are what one goes on with.
    sound.chosen = ids
  }

  /** Edits of different clips of one outline as one. */
  function all(each: readonly Made[]): Made {
    const edits = []
    for (const one of each) {
      if (!one.ok) return one
      edits.push(...one.edits)
    }
    return { ok: true, edits }
  }

  function duplicate() {
    const clips = chosenOr()
    if (clips === null) return
    const ids = clips.map(() => newId())
    if (film.perform(`duplicate ${many(clips)}`, (f) => duplicateClips(f.outline, projectId(), clips.map((clip) => clip.id), ids, rate()))) sound.chosen = ids
  }

  function remove() {
    const clips = chosenOr()
    if (clips !== null && film.perform(`delete ${many(clips)}`, (f) => removeClips(f.outline, projectId(), clips.map((clip) => clip.id)))) sound.chooseNothing()
  }

  const setClip = (id: string, label: string, fields: Partial<Omit<Clip, 'id'>>, gesture: string | null = null) => film.perform(label, (f) => editClip(f.outline, projectId(), id, fields), gesture)

  /** Ties the chosen clips to a shot or to the film's start; they stay where they are. */
  function tie(shotId: string | null, ids: readonly string[] = sound.chosen) {
    const where = shotId === null ? 'the film’s start' : `shot ${film.outline.shots[shotId]?.label ?? ''}`
    return film.perform(`tie to ${where}`, (f) => tieClips(f.outline, projectId(), ids, shotId, sound.startOf))
  }

  /** Out of the tray: tied to the shot under the playhead, beginning there. */
  function fromTray(id: string) {
    if (film.outline.clips[id] === undefined) return
    const lane = film.outline.lanes[film.outline.clips[id].laneId] === undefined ? laneFor('voices').id : film.outline.clips[id].laneId
    if (setClip(id, 'take out of the tray', { ...tieAt(desk.playhead), laneId: lane })) sound.choose(id)
  }

  /** The panel that a clip's line is spoken in: its own, the one that shows its passage, else the one under the playhead. */
  function panelOf(clip: Clip): { readonly takeId: string; readonly panelId: string; readonly startFrame: number; readonly number: number } | null {
    const linked = clip.passageId === null ? undefined : Object.values(film.outline.links).find((link) => link.passageId === clip.passageId && film.filmStage.placeOfTake(link.takeId) !== null)
    const chosen = boards.panels.length === 1 ? boards.panels[0] : undefined
    const own = clip.panelId === null ? undefined : takeOfPanel(clip)
    const place = chosen ?? own ?? linked ?? (desk.takeId === null || desk.placedPanel === null ? undefined : { takeId: desk.takeId, panelId: desk.placedPanel.panel.id })
    if (place === undefined) return null
    const shot = film.filmStage.placeOfTake(place.takeId)
    const take = film.takeOf(place.takeId)
    const entry = take === null ? undefined : placedPanels(take).find(({ panel }) => panel.id === place.panelId)
    return shot === null || entry === undefined ? null : { takeId: place.takeId, panelId: place.panelId, startFrame: shot.startFrame + entry.startFrame, number: entry.index + 1 }
  }
  /** Panels' ids are their takes' own, so the clip's shot tells which is meant. */
  function takeOfPanel(clip: Clip): { readonly takeId: string; readonly panelId: string } | undefined {
    const takeId = clip.shotId === null ? undefined : film.outline.shots[clip.shotId]?.circledTakeId
    return takeId !== undefined && film.takeOf(takeId)?.panels[clip.panelId!] !== undefined ? { takeId, panelId: clip.panelId! } : undefined
  }

  /** The clip's start under its panel's, tied to that shot. */
  function placeUnderPanel(id: string) {
    const clip = film.outline.clips[id]
    const panel = clip === undefined ? null : panelOf(clip)
    if (clip === undefined || panel === null) return film.refuse('There is no panel to place this under. Choose one in the strip first.')
    setClip(id, `place ${clipName(clip)} under panel ${panel.number}`, { ...tieAt(panel.startFrame), panelId: panel.panelId })
  }

  /** The panel lasts as long as the line, with a pause before it and one after; the clip goes under it. */
  async function panelToLine(id: string) {
    const clip = film.outline.clips[id]
    const panel = clip === undefined ? null : panelOf(clip)
    if (clip === undefined || panel === null) return film.refuse('There is no panel to give this length. Choose one in the strip first.')
    const frames = Math.max(1, Math.ceil(clip.lengthSeconds * framesPerSecond(rate()) - 1e-6) + sound.headFrames + sound.tailFrames)
    const place = { takeId: panel.takeId, panelId: panel.panelId }
    if (timing.modeNow === 'steal') await reachAfter(panel.takeId)
    const giver = timing.modeNow === 'steal' ? giverAfter(place) : null
    film.perform(`panel ${panel.number} to the line`, (f) => {
      const length = retime(f, projectId(), [{ lengths: [{ ...place, lengthFrames: frames }], giver }], timing.modeNow)
      return length.ok ? all([length, editClip(f.outline, projectId(), id, { ...tieAt(panel.startFrame), offsetFrames: tieAt(panel.startFrame).offsetFrames + sound.headFrames, panelId: panel.panelId })]) : length
    })
  }

  /** Looks for pauses in a clip's recording; what is found waits to be taken or left. */
  function findSplits(id: string, thresholdDb: number, leastSeconds: number) {
    const clip = film.outline.clips[id]
    if (clip === undefined) return
    const wave = peaks.of(clip.assetHash)
    if (wave === null) return film.refuse('The recording is still being read. Try again in a moment.')
    sound.proposals = { clipId: id, atSeconds: proposeSplits(wave, clip.fromSeconds, clip.fromSeconds + clip.lengthSeconds, { thresholdDb, leastSeconds }) }
  }

  /** Splits at proposed places, or leaves them; what is after a split goes on to be asked about. */
  function answerSplits(atSeconds: readonly number[], take: boolean) {
    const { proposals } = sound
    const clip = proposals === null ? undefined : film.outline.clips[proposals.clipId]
    if (proposals === null || clip === undefined) return void (sound.proposals = null)
    const rest = proposals.atSeconds.filter((at) => !atSeconds.includes(at))
    if (take) {
      const ids = atSeconds.map(() => newId())
      if (!film.perform(atSeconds.length === 1 ? 'split at a pause' : `split at ${atSeconds.length} pauses`, (f) => splitClip(f.outline, projectId(), clip.id, atSeconds.map((at) => at - clip.fromSeconds), ids, rate()))) return
      const later = ids.map((id) => film.outline.clips[id]!).find((each) => rest.some((at) => at > each.fromSeconds && at < each.fromSeconds + each.lengthSeconds))
      const goesOn = rest.some((at) => at < atSeconds[0]!) ? clip.id : later?.id
      sound.proposals = rest.length === 0 || goesOn === undefined ? null : { clipId: goesOn, atSeconds: rest.filter((at) => within(goesOn, at)) }
      return
    }
    sound.proposals = rest.length === 0 ? null : { ...proposals, atSeconds: rest }
  }
  const within = (id: string, at: number) => {
    const clip = film.outline.clips[id]!
    return at > clip.fromSeconds && at < clip.fromSeconds + clip.lengthSeconds
  }

  return { bringing, newLane, setLane, dropLane, shiftLane, orderLane, bring, pick, bringWave, splitHere, duplicate, remove, setClip, tie, tieAt, fromTray, panelOf, placeUnderPanel, panelToLine, findSplits, answerSplits }
}
