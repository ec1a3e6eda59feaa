import { untouchedPose, type CameraPose } from '@rubato/core/camera'
import { newLevel, cellIdOf, EMPTY_TAKE, freeze, linkIdOf, type Camera, type Cell, type Drawing, type Film, type Framing, type GroundPlan, type Level, type Link, type Panel, type Passage, type Preset, type Project, type RulerMark, type TakeBody, type Transition, orderOfNumber } from '@rubato/core/document'
import { CUSHIONED_MOVE, type MoveSpec } from '@rubato/core/moves'
import { passageWords, readFountain } from '@rubato/core/script'
import { opticsOf } from '@rubato/core/stage'
import { drawGoose, drawOskar, drawTilda, GOOSE_POSES, POSES } from './figures'
import { Pen } from './pen'
import { SCREENPLAY } from './screenplay'
import { demoSound, type DemoRecording } from './sound'
import { drawBoardwalk, drawGulls, drawLighthouse, drawMarsh, drawMarshPlan, drawRail, drawReeds, drawSea, drawSky } from './places'

const PROJECT: Project = {
  id: 'salt-lantern',
  title: 'Salt Lantern',
  rate: { numerator: 24, denominator: 1 },
  widthPx: 1280,
  heightPx: 720,
  filmBackMm: 36,
  baseLensMm: 50,
  defaultPanelFrames: 48,
  targetFrames: 432,
}
const OPTICS = opticsOf(PROJECT)
const REST = untouchedPose(OPTICS)
const WALK = -0.2

/** A level's drawings by panel (from 1), each drawn as the untouched camera would see it. */
interface LevelPlan {
  readonly id: string
  readonly name: string
  readonly depth: number
  readonly locked?: boolean
  readonly drawings: Readonly<Record<number, (pen: Pen) => void>>
}

interface ShotPlan {
  readonly label: string
  readonly title: string
  readonly panels: readonly { readonly frames: number; readonly action: string; readonly dialogue?: string }[]
  /** Near to far. */
  readonly levels: readonly LevelPlan[]
  readonly framings: readonly { readonly panel: number; readonly offset: number; readonly pose: Partial<CameraPose>; readonly move?: MoveSpec }[]
  /** Kept on the number keys from 1 on. */
  readonly presets?: readonly { readonly name: string; readonly pose: Partial<CameraPose> }[]
  /** What is drawn under the plan: x across, depth upwards. */
  readonly ground?: (pen: Pen) => void
}

const lampDusk: ShotPlan = {
  label: '030',
  title: 'Lamp room, dusk',
  panels: [
    { frames: 48, action: 'Dusk. The lamp gutters.' },
    { frames: 40, action: 'Oskar looks up.', dialogue: 'OSKAR: Mind the lamp.' },
  ],
  levels: [
    { id: 'reeds', name: 'Near reeds', depth: -0.5, drawings: { 1: (pen) => drawReeds(pen, -0.75, 0.75, -0.36, 0.13, 34, { width: 0.006, colour: '#5a5447' }) } },
    { id: 'oskar', name: 'Oskar', depth: 0, drawings: { 1: (pen) => drawOskar(pen, 0.115, 0.131, 0.085, false), 2: (pen) => drawOskar(pen, 0.115, 0.131, 0.085, true) } },
    { id: 'lighthouse', name: 'Lighthouse', depth: 0.01, drawings: { 1: (pen) => drawLighthouse(pen, 0.19, -0.2, 0.45, 0.95), 2: (pen) => drawLighthouse(pen, 0.19, -0.2, 0.45, 0.3) } },
    { id: 'sea', name: 'Sea', depth: 3, locked: true, drawings: { 1: (pen) => drawSea(pen, -0.75, 0.75, -0.1, -0.42) } },
    { id: 'sky', name: 'Sky', depth: 6, locked: true, drawings: { 1: (pen) => { drawSky(pen, -0.75, 0.75); pen.wash([[-0.75, -0.2], [0.75, -0.2], [0.75, -0.05], [-0.75, -0.05]], '#f3eee0'); drawGulls(pen, -0.28, 0.12) } } },
  ],
  framings: [{ panel: 1, offset: 0, pose: { x: 0.02, y: -0.005 } }],
}

const ran = (x: number, pose: keyof typeof POSES) => (pen: Pen) => drawTilda(pen, x, WALK + 0.002, 0.215, POSES[pose])
const goosed = (x: number, pose: keyof typeof GOOSE_POSES) => (pen: Pen) => drawGoose(pen, x, WALK + 0.002, 0.125, GOOSE_POSES[pose])

const boardwalkRun: ShotPlan = {
  label: '040',
  title: 'Tilda runs the boardwalk',
  panels: [
    { frames: 62, action: 'Tilda sets off. Brisket follows.' },
    { frames: 34, action: 'Full run.' },
    { frames: 58, action: 'She sees the beam falter.', dialogue: 'TILDA: It’s going out!' },
    { frames: 50, action: 'Passes under the light.' },
  ],
  levels: [
    { id: 'near-reeds', name: 'Near reeds', depth: -0.55, drawings: { 1: (pen) => drawReeds(pen, -2.3, 2.3, -0.38, 0.24, 64, { width: 0.0085, colour: '#4d483d' }) } },
    { id: 'tilda', name: 'Tilda', depth: 0, drawings: { 1: ran(-0.62, 'setsOff'), 2: ran(-0.12, 'fullRun'), 3: ran(0.36, 'sees'), 4: ran(0.6, 'passes') } },
    { id: 'goose', name: 'Brisket', depth: 0.02, drawings: { 1: goosed(-0.84, 'follows'), 2: goosed(-0.36, 'runs'), 3: goosed(0.14, 'alert'), 4: goosed(0.37, 'hurries') } },
    { id: 'boardwalk', name: 'Boardwalk', depth: 0.05, drawings: { 1: (pen) => drawBoardwalk(pen, -1.75, 1.65, WALK, 0.045) } },
    { id: 'marsh-reeds', name: 'Marsh reeds', depth: 0.9, drawings: { 1: (pen) => { drawMarsh(pen, -1.3, 1.3, -0.175, -0.42); drawReeds(pen, -1.3, 1.3, -0.19, 0.13, 110, { width: 0.0034, colour: '#8d877a' }) } } },
    { id: 'lighthouse', name: 'Lighthouse', depth: 2.2, locked: true, drawings: { 1: (pen) => drawLighthouse(pen, 0.36, -0.09, 0.3, 1.5), 3: (pen) => drawLighthouse(pen, 0.36, -0.09, 0.3, 0.3), 4: (pen) => drawLighthouse(pen, 0.36, -0.09, 0.3, 1.5) } },
    { id: 'sea', name: 'Sea', depth: 3.2, locked: true, drawings: { 1: (pen) => drawSea(pen, -1.05, 1.05, -0.02, -0.45) } },
    { id: 'sky', name: 'Sky', depth: 6, locked: true, drawings: { 1: (pen) => { drawSky(pen, -0.95, 0.95); drawGulls(pen, -0.2, 0.16) } } },
  ],
  framings: [
    { panel: 1, offset: 8, pose: { x: -0.6, y: 0.01 }, move: { ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames: 18, arriveFrames: 12 } } },
    { panel: 3, offset: 10, pose: { x: 0.3, y: 0.01 }, move: { timing: { kind: 'cushioned', leaveFrames: 6, arriveFrames: 34 }, path: { kind: 'straight' }, evenness: { kind: 'screen', subjectDepth: 0 } } },
    { panel: 4, offset: 38, pose: { x: 0.6, y: -0.045, depth: REST.depth * 0.68 } },
  ],
  presets: [
    { name: 'Wide', pose: { x: 0.1, depth: REST.depth * 1.35 } },
    { name: 'Tilda close', pose: { x: 0.28, y: -0.06, depth: REST.depth * 0.5 } },
    { name: 'The light', pose: { x: 0.3, y: 0.16, focalLengthMm: 100 } },
  ],
  ground: (pen) => drawMarshPlan(pen),
}

const gooseAtRail: ShotPlan = {
  label: '050',
  title: 'Brisket at the rail',
  panels: [
    { frames: 66, action: 'Brisket stops dead at the rail.' },
    { frames: 72, action: 'Turns back.', dialogue: 'TILDA: Brisket, the oil!' },
  ],
  levels: [
    { id: 'rail', name: 'Rail', depth: -0.6, drawings: { 1: (pen) => drawRail(pen, [-0.72, -0.3, 0.44, 0.95], -0.45, 0.33, 0.045) } },
    { id: 'goose', name: 'Brisket', depth: -0.1, drawings: { 1: (pen) => drawGoose(pen, -0.2, -0.235, 0.24, GOOSE_POSES.dead), 2: (pen) => drawGoose(pen, -0.22, -0.235, 0.24, GOOSE_POSES.honks) } },
    { id: 'tilda', name: 'Tilda', depth: 0, drawings: { 1: (pen) => drawTilda(pen, 0.2, -0.235, 0.44, POSES.stops), 2: (pen) => drawTilda(pen, 0.18, -0.235, 0.44, POSES.turnsBack) } },
    { id: 'boardwalk', name: 'Boardwalk', depth: 0.05, drawings: { 1: (pen) => drawBoardwalk(pen, -0.9, 1.0, -0.235, 0.05) } },
    { id: 'marsh-reeds', name: 'Marsh reeds', depth: 0.9, drawings: { 1: (pen) => { drawMarsh(pen, -0.9, 0.95, -0.18, -0.45); drawReeds(pen, -0.9, 0.95, -0.2, 0.15, 70, { width: 0.004, colour: '#8d877a' }) } } },
    { id: 'lighthouse', name: 'Lighthouse', depth: 2.2, locked: true, drawings: { 1: (pen) => drawLighthouse(pen, 0.4, -0.08, 0.3, 1.2) } },
    { id: 'sea', name: 'Sea', depth: 3.2, locked: true, drawings: { 1: (pen) => drawSea(pen, -0.8, 0.85, -0.02, -0.45) } },
    { id: 'sky', name: 'Sky', depth: 6, locked: true, drawings: { 1: (pen) => drawSky(pen, -0.75, 0.8) } },
  ],
  framings: [
    { panel: 1, offset: 0, pose: { x: -0.05, y: 0 }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } },
    { panel: 2, offset: 71, pose: { x: 0.09, y: 0.005, depth: REST.depth + 0.04 } },
  ],
}

const SEQUENCES = [
  ['tower', '01', 'Tower', 1080],
  ['boardwalk', '02', 'Boardwalk', 432],
  ['lamp-room', '03', 'Lamp room', 624],
  ['kite', '04', 'Kite', 960],
] as const

/** Which sequence each scene of the screenplay became, in its order. */
const SCENES = ['tower', 'boardwalk', 'boardwalk', 'boardwalk', 'lamp-room', 'kite']

/** The script, with links from the panels that say its words. */
function boardScript() {
  const passages: Record<string, Passage> = {}
  const links: Record<string, Link> = {}
  let scenes = 0
  readFountain(SCREENPLAY).passages.forEach((passage, i) => {
    const id = `s${i + 1}`
    passages[id] = { id, order: orderOfNumber(i + 1), ...passage, sequenceId: passage.kind === 'scene' ? SCENES[scenes++]! : null }
  })
  for (const plan of SHOTS) {
    plan.panels.forEach(({ action, dialogue = '' }, i) => {
      for (const passage of Object.values(passages)) {
        const words = passageWords(passage)
        if (passage.kind !== 'scene' && (words === action || words.replace(/'/g, '’') === dialogue)) {
          const panelId = `p${i + 1}`
          const id = linkIdOf(passage.id, panelId)
          links[id] = { id, passageId: passage.id, takeId: `take-${plan.label}-a`, panelId, words }
        }
      }
    })
  }
  return { passages, links }
}

/** Who acts, in any shot. */
const FIGURES: ReadonlySet<string> = new Set(['Tilda', 'Brisket', 'Oskar'])

const RULER_MARKS: readonly RulerMark[] = [
  { id: 'gutters', shotId: 'shot-030', offsetFrames: 30, name: 'Lamp gutters', meaning: 'sound' },
  { id: 'going-out', shotId: 'shot-040', offsetFrames: 62, name: '“It’s going out!”', meaning: 'voice' },
  { id: 'first-light', shotId: 'shot-050', offsetFrames: 66, name: 'First light', meaning: 'change' },
]

const TRANSITIONS: readonly Transition[] = [
  // The run along the boardwalk becomes dawn at the rail.
  { id: 'shot-050', at: 'cut', kind: 'dissolve', lengthFrames: 20, place: 'centre', angleDegrees: 0, softness: 0.2, colour: '#000000', soundToo: true },
]

const SHOTS = [lampDusk, boardwalkRun, gooseAtRail]

function passageOf(passages: Readonly<Record<string, Passage>>, line: string): string | null {
  return Object.values(passages).find((passage) => line !== '' && passage.text.replace(/'/g, '’') === line)?.id ?? null
}

/** The demo film, whole; with its recordings it has sound. Every call gives the same. */
export function buildSaltLantern(recordings: readonly DemoRecording[] = []): Film {
  const script = boardScript()
  const { lanes, clips } = demoSound(recordings)
  const outline = {
    project: { [PROJECT.id]: PROJECT },
    sequences: Object.fromEntries(SEQUENCES.map(([id, label, title, targetFrames], i) => [id, { id, order: orderOfNumber(i + 1), label, title, targetFrames }])),
    shots: {} as Record<string, Film['outline']['shots'][string]>,
    takes: {} as Record<string, Film['outline']['takes'][string]>,
    ...script,
    lanes,
    clips: Object.fromEntries(Object.values(clips).map((clip) => [clip.id, { ...clip, passageId: passageOf(script.passages, clip.line) }])),
    rulerMarks: Object.fromEntries(RULER_MARKS.map((mark) => [mark.id, mark])),
    transitions: Object.fromEntries(TRANSITIONS.map((transition) => [transition.id, transition])),
  }
  const takes: Record<string, TakeBody> = {}
  const drawings: Record<string, Drawing> = {}
  SHOTS.forEach((plan, index) => {
    const shotId = `shot-${plan.label}`
    const takeId = `take-${plan.label}-a`
    outline.shots[shotId] = { id: shotId, sequenceId: 'boardwalk', order: orderOfNumber(index + 1), label: plan.label, title: plan.title, circledTakeId: takeId }
    outline.takes[takeId] = { id: takeId, shotId, order: 'a1', letter: 'A' }
    takes[takeId] = buildTake(plan, drawings, 1000 * (index + 1))
  })
  return freeze({ outline: freeze(outline), takes: freeze(takes), drawings: freeze(drawings) })
}

function buildTake(plan: ShotPlan, drawings: Record<string, Drawing>, seed: number): TakeBody {
  const panelId = (number: number) => `p${number}`
  const panels: Record<string, Panel> = {}
  plan.panels.forEach(({ frames, action, dialogue = '' }, i) => {
    const id = panelId(i + 1)
    panels[id] = { id, order: orderOfNumber(i + 1), lengthFrames: frames, lengthLocked: false, action, dialogue, notes: '' }
  })
  const levels: Record<string, Level> = {}
  const cells: Record<string, Cell> = {}
  plan.levels.forEach(({ id, name, depth, locked = false, drawings: byPanel }, i) => {
    // Drawn as seen by the untouched camera, then set back along the rays: the picture stays.
    const scale = (depth - REST.depth) / -REST.depth
    levels[id] = newLevel({ id, order: orderOfNumber(i + 1), name, depth, scale, locked, ...(FIGURES.has(name) ? { figure: true } : {}) })
    for (const [number, draw] of Object.entries(byPanel)) {
      const pen = new Pen(seed + i * 50 + Number(number))
      draw(pen)
      const drawingId = `d${plan.label}-${id}-${number}`
      drawings[drawingId] = pen.drawing()
      const cellId = cellIdOf(id, panelId(Number(number)))
      cells[cellId] = { id: cellId, levelId: id, panelId: panelId(Number(number)), drawingId }
    }
  })
  const presets: Record<string, Preset> = {}
  plan.presets?.forEach(({ name, pose }, i) => {
    const id = String(i + 1)
    presets[id] = { id, name, pose: { ...REST, ...pose } }
  })
  const grounds: Record<string, GroundPlan> = {}
  if (plan.ground !== undefined) {
    const pen = new Pen(seed + 999)
    plan.ground(pen)
    const drawingId = `d${plan.label}-ground`
    drawings[drawingId] = pen.drawing()
    grounds.ground = { id: 'ground', drawingId, opacity: 0.55, visible: true }
  }
  const camera: Camera = { id: 'camera-a', order: 'a1', letter: 'A', locked: false }
  const framings: Record<string, Framing> = {}
  plan.framings.forEach(({ panel, offset, pose, move = CUSHIONED_MOVE }, i) => {
    const id = `f${i + 1}`
    framings[id] = { id, cameraId: camera.id, panelId: panelId(panel), offsetFrames: offset, pose: { ...REST, ...pose }, move, locked: false }
  })
  return { ...EMPTY_TAKE, panels, levels, cells, cameras: { [camera.id]: camera }, framings, presets, grounds }
}
