import { BREAKDOWN } from './breakdown'
import { untouchedPose, type CameraPose } from '@rubato/core/camera'
import { BREAKDOWN_ID, anchorOfFrame, cellAt, EMPTY_TAKE, freeze, levelDrawingIdOf, linkIdOf, newLevel, SET_SHOWN, type AirKey, type AirRecord, type Camera, type CameraSpan, type Cell, type Drawing, type Film, type FollowSpan, type Framing, type GroundPlan, type HandSpan, type Level, type LevelDrawing, type LevelKey, type Link, type Panel, type Passage, type Preset, type Project, type RulerMark, type SpanEnd, type TakeBody, type Transition, orderOfNumber } from '@rubato/core/document'
import { roomWalls, type Repeat, type Room, type WallName } from '@rubato/core/depth'
import type { Point3 } from '@rubato/core/geometry'
import { CUSHIONED_MOVE, type HazeValue, type MoveSpec } from '@rubato/core/moves'
import { passageWords, readFountain } from '@rubato/core/script'
import { SPAN_DEFAULTS } from '@rubato/core/edits'
import { opticsOf } from '@rubato/core/stage'
import { drawGoose, drawLantern, drawMoth, drawOskar, drawTilda, GOOSE_POSES, GOOSE_RUN, handOf, POSES, runPose, type GoosePose, type Pose } from './figures'
import { BOARDWALK, buildBoardwalk, drawKite } from './boardwalkSet'
import { withTakeByHand } from './byHand'
import { Pen } from './pen'
import { SCREENPLAY } from './screenplay'
import { demoSound, type DemoRecording } from './sound'
import { drawGulls, drawLamp, drawLampLight, drawLampRoomFloor, drawLampRoomRoof, drawLighthouse, drawMarshPlan, drawNight, drawPanes, drawRail, drawReeds, drawSea, drawSky, drawStar } from './places'

const PROJECT: Project = {
  id: 'salt-lantern',
  title: 'Salt Lantern',
  rate: { numerator: 24, denominator: 1 },
  widthPx: 1280,
  heightPx: 720,
  filmBackMm: 36,
  baseLensMm: 50,
  defaultPanelFrames: 48,
  targetFrames: 672,
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
  /** It is a set that stands there. */
  readonly set?: string
  /** Where it stands, where its art is not drawn in place. */
  readonly at?: Partial<Point3>
  readonly fields?: Partial<Omit<Level, 'id' | 'kind'>>
  readonly drawings?: Readonly<Record<number, (pen: Pen) => void>>
  /** Drawings by name, and from which frame of the shot on each is shown. */
  readonly art?: Readonly<Record<string, (pen: Pen) => void>>
  readonly shows?: readonly Shown[]
  readonly keys?: readonly { readonly of: 'place'; readonly frame: number; readonly value: Point3; readonly move: MoveSpec }[]
}
type Shown = readonly [frame: number, drawing: string]

interface FramingPlan {
  readonly panel: number
  readonly offset: number
  readonly pose: Partial<CameraPose>
  readonly move?: MoveSpec
}

interface ShotPlan {
  readonly label: string
  readonly title: string
  readonly panels: readonly { readonly frames: number; readonly action: string; readonly dialogue?: string }[]
  /** Near to far. */
  readonly levels: readonly LevelPlan[]
  readonly framings: readonly FramingPlan[]
  /** Cameras beside A, by their letters, each with its framings. */
  readonly others?: Readonly<Record<string, readonly FramingPlan[]>>
  /** Which camera is live from which frame on. */
  readonly cuts?: readonly { readonly frame: number; readonly letter: string; readonly dissolveFrames?: number }[]
  /** Where A follows, aims or is held by hand: its first frame and its last, null: the shot's. */
  readonly haze?: readonly { readonly frame: number; readonly value: HazeValue }[]
  readonly spans?: readonly { readonly first: number; readonly last: number | null; readonly span: Omit<CameraSpan, 'id' | 'cameraId' | 'panelId' | 'offsetFrames'> }[]
  /** Which of the sequences it is in. Absent: the boardwalk's. */
  readonly sequenceId?: string
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

const TALL = 0.215
const runs = (pose: Pose) => (pen: Pen) => drawTilda(pen, 0, WALK + 0.002, TALL, pose, false)
const RUN = Array.from({ length: 6 }, (_, i) => runs(runPose(i / 6)))
const flaps = (pose: GoosePose) => (pen: Pen) => drawGoose(pen, 0, WALK + 0.002, 0.125, pose)
const HAND = handOf(TALL)

/** Drawings one after the other from a frame up to another, each so many frames. */
const cycle = (names: readonly string[], from: number, to: number, each: number): readonly Shown[] => Array.from({ length: Math.ceil((to - from) / each) }, (_, i) => [from + i * each, names[i % names.length]!] as const)
const STRIDE = ['1', '2', '3', '4', '5', '6']
const EVEN: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const setOff = (leaveFrames: number, arriveFrames: number): MoveSpec => ({ ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames, arriveFrames } })
const NO_SCATTER: Repeat['scatter'] = { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }
/** One clump, many times along the walk; each sways a little after the one before. */
const nearReeds: LevelPlan = {
  id: 'near-reeds', name: 'Near reeds', depth: -0.55, at: { x: -2.1, y: -0.38 },
  fields: {
    pivot: { x: 0, y: -0.38 },
    swing: { amount: 0.9, periodFrames: 62, phase: 0 },
    repeat: { count: 13, seed: 41, about: { x: 0, y: -0.38 }, lay: { kind: 'step', x: 0.36, y: 0 }, depth: 0, rollDegrees: 0, size: 1, scatter: { ...NO_SCATTER, x: 0.06, rollDegrees: 3, size: 0.14, mirrored: 0.5 }, stagger: 0.12 },
  },
  drawings: { 1: (pen) => drawReeds(pen, -0.2, 0.2, -0.38, 0.24, 6, { width: 0.0085, colour: '#4d483d' }) },
}

/** The set in a shot, so much higher or lower as the shot's own figures stand. */
const boardwalkAt = (at: Point3): LevelPlan => ({ id: 'boardwalk', name: BOARDWALK.name, depth: at.depth, set: BOARDWALK.id, fields: { ...at, scale: 1 } })

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
    nearReeds,
    {
      id: 'moth', name: 'Moth', depth: 0, at: { x: 0.012, y: -0.03, depth: -0.004 },
      fields: { carrier: { kind: 'level', levelId: 'lantern', turn: false, size: true }, drift: { amount: 0.055, periodFrames: 34, phase: 0, seed: 11 } },
      art: { A: (pen) => drawMoth(pen, 0, 0, 0.014, 1), B: (pen) => drawMoth(pen, 0, 0, 0.014, 0.2) },
      shows: cycle(['A', 'B'], 0, 204, 2),
    },
    {
      id: 'lantern', name: 'Lantern', depth: 0, at: { x: HAND[0], y: WALK + 0.002 + HAND[1], depth: -0.006 },
      fields: { carrier: { kind: 'level', levelId: 'tilda', turn: true, size: true }, swing: { amount: 9, periodFrames: 24, phase: 0.25 }, stepped: 2 },
      drawings: { 1: (pen) => drawLantern(pen, 0, 0, TALL) },
    },
    {
      id: 'tilda', name: 'Tilda', depth: 0, at: { x: -0.62 }, fields: { stepped: 2 },
      art: { ...Object.fromEntries(RUN.map((draw, i) => [STRIDE[i]!, draw])), 7: runs({ ...POSES.setsOff, lantern: [0.22, -0.04], lean: 0.1 }), 8: runs({ ...POSES.sees, lantern: [0.22, -0.04], lean: 0.1 }) },
      shows: [[0, '7'], ...cycle(STRIDE, 14, 98, 2), [98, '8'], ...cycle(STRIDE, 134, 190, 2), [190, '7']],
      keys: [
        { of: 'place', frame: 10, value: { x: -0.62, y: 0, depth: 0 }, move: setOff(12, 8) },
        { of: 'place', frame: 98, value: { x: 0.34, y: 0, depth: 0 }, move: EVEN },
        { of: 'place', frame: 132, value: { x: 0.34, y: 0, depth: 0 }, move: setOff(8, 12) },
        { of: 'place', frame: 192, value: { x: 0.62, y: 0, depth: 0 }, move: EVEN },
      ],
    },
    {
      id: 'goose', name: 'Brisket', depth: 0.02, at: { x: -0.84 }, fields: { stepped: 2, bob: { amount: 0.006, periodFrames: 12, phase: 0 } },
      art: { A: flaps(GOOSE_RUN[0]!), B: flaps(GOOSE_RUN[1]!), C: flaps(GOOSE_RUN[2]!), D: flaps(GOOSE_RUN[3]!), E: flaps(GOOSE_POSES.follows), F: flaps(GOOSE_POSES.alert) },
      shows: [[0, 'E'], ...cycle([...'ABCD'], 22, 106, 2), [106, 'F'], ...cycle([...'ABCD'], 140, 196, 2), [196, 'E']],
      keys: [
        { of: 'place', frame: 20, value: { x: -0.84, y: 0, depth: 0.02 }, move: setOff(8, 10) },
        { of: 'place', frame: 106, value: { x: 0.1, y: 0, depth: 0.02 }, move: EVEN },
        { of: 'place', frame: 140, value: { x: 0.1, y: 0, depth: 0.02 }, move: setOff(6, 14) },
        { of: 'place', frame: 198, value: { x: 0.4, y: 0, depth: 0.02 }, move: EVEN },
      ],
    },
    boardwalkAt(BOARDWALK.stands),
    { id: 'lighthouse', name: 'Lighthouse', depth: 2.2, locked: true, drawings: { 1: (pen) => drawLighthouse(pen, 0.36, -0.09, 0.3, 1.5), 3: (pen) => drawLighthouse(pen, 0.36, -0.09, 0.3, 0.3), 4: (pen) => drawLighthouse(pen, 0.36, -0.09, 0.3, 1.5) } },
    { id: 'sea', name: 'Sea', depth: 3.2, locked: true, drawings: { 1: (pen) => drawSea(pen, -1.05, 1.05, -0.02, -0.45) } },
    { id: 'sky', name: 'Sky', depth: 6, locked: true, drawings: { 1: (pen) => { drawSky(pen, -0.95, 0.95); drawGulls(pen, -0.2, 0.16) } } },
  ],
  framings: [
    { panel: 1, offset: 40, pose: { x: -0.6, y: 0.01 }, move: { ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames: 18, arriveFrames: 12 } } },
    { panel: 3, offset: 10, pose: { x: 0.3, y: 0.01 }, move: { timing: { kind: 'cushioned', leaveFrames: 6, arriveFrames: 34 }, path: { kind: 'straight' }, evenness: { kind: 'screen', subjectDepth: 0 } } },
    { panel: 4, offset: 38, pose: { x: 0.6, y: -0.045, depth: REST.depth * 0.68 } },
  ],
  // She sets off before the camera does, has room ahead, and runs on as it comes in on her.
  spans: [{ first: 18, last: 158, span: { ...SPAN_DEFAULTS.follow, kind: 'follow', target: { levelId: 'tilda', at: { x: 0, y: -0.09 } }, u: -0.09, v: -0.1, lagFrames: 8, inFrames: 24, outFrames: 34, lead: { mostFw: 0.1, atFwPerFrame: 0.008 } } as FollowSpan }],
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
    boardwalkAt({ ...BOARDWALK.stands, y: -0.235 }),
    { id: 'lighthouse', name: 'Lighthouse', depth: 2.2, locked: true, drawings: { 1: (pen) => drawLighthouse(pen, 0.4, -0.08, 0.3, 1.2) } },
    { id: 'sea', name: 'Sea', depth: 3.2, locked: true, drawings: { 1: (pen) => drawSea(pen, -0.8, 0.85, -0.02, -0.45) } },
    { id: 'sky', name: 'Sky', depth: 6, locked: true, drawings: { 1: (pen) => drawSky(pen, -0.75, 0.8) } },
  ],
  framings: [
    { panel: 1, offset: 0, pose: { x: -0.05, y: 0 }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } },
    { panel: 2, offset: 71, pose: { x: 0.09, y: 0.005, depth: REST.depth + 0.04 } },
  ],
  // Dawn: the marsh lies in haze, which lifts as the light comes.
  haze: [
    { frame: 0, value: { density: 0.42, start: 1.35, colour: '#d3d8d8' } },
    { frame: 60, value: { density: 0.42, start: 1.35, colour: '#d9d8d0' } },
    { frame: 137, value: { density: 0.2, start: 1.5, colour: '#f0e4cb' } },
  ],
  spans: [{ first: 0, last: null, span: { ...SPAN_DEFAULTS.hand, kind: 'hand', placeFw: 0.003, rollDegrees: 0.15, periodFrames: 72, seed: 7 } as HandSpan }],
}

/** Day again, on the same boards, looked along a little. */
const kiteOverMarsh: ShotPlan = {
  label: '070',
  title: 'A kite over the boardwalk',
  sequenceId: 'kite',
  panels: [
    { frames: 54, action: 'A kite rises over the boardwalk. Brisket watches it as if it owed her something.' },
    { frames: 42, action: 'Tilda pays out the line.', dialogue: 'TILDA: You’d only eat it.' },
  ],
  levels: [
    {
      id: 'kite', name: 'Kite', depth: -0.004,
      at: { x: 0.036, y: -0.066, depth: -0.006 }, fields: { swing: { amount: 3, periodFrames: 54, phase: 0 }, carrier: { kind: 'level', levelId: 'tilda', turn: true, size: true } },
      drawings: { 1: (pen) => drawKite(pen, 0, 0) },
    },
    { id: 'tilda', name: 'Tilda', depth: 0, at: { x: -0.16 }, drawings: { 1: (pen) => drawTilda(pen, 0, WALK + 0.002, TALL, { ...POSES.stops, lantern: [0.078, 0.09], look: 1 }, false) } },
    { id: 'goose', name: 'Brisket', depth: 0.01, at: { x: 0.09 }, drawings: { 1: (pen) => drawGoose(pen, 0, WALK + 0.002, 0.125, GOOSE_POSES.alert) } },
    boardwalkAt(BOARDWALK.stands),
    { id: 'sea', name: 'Sea', depth: 3.2, locked: true, drawings: { 1: (pen) => drawSea(pen, -1.05, 1.05, -0.02, -0.45) } },
    { id: 'sky', name: 'Sky', depth: 6, locked: true, drawings: { 1: (pen) => { drawSky(pen, -0.95, 0.95); drawGulls(pen, 0.2, 0.14) } } },
  ],
  framings: [
    { panel: 1, offset: 0, pose: { x: 0.14, y: 0.03, depth: REST.depth * 0.92, panDegrees: -6 }, move: { ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames: 14, arriveFrames: 26 } } },
    { panel: 2, offset: 34, pose: { x: -0.02, y: 0.06, depth: REST.depth, panDegrees: 3 } },
  ],
}

/** The lamp room: a box of flat drawings around the lamp. */
const LAMP_ROOM: Room = { floor: { x: 0, y: -0.255, depth: -0.2 }, panDegrees: 0, width: 2, height: 0.95, length: 2 }
const LAMP_WALLS: Record<WallName, readonly [name: string, draw: (pen: Pen, width: number, height: number) => void]> = {
  floor: ['Floor', drawLampRoomFloor],
  far: ['Far panes', (pen, width, height) => drawPanes(pen, width, height, '#8f897a')],
  left: ['Left panes', (pen, width, height) => drawPanes(pen, width, height, '#9a9484')],
  right: ['Right panes', (pen, width, height) => drawPanes(pen, width, height, '#857f70')],
  near: ['Window', (pen, width, height) => drawPanes(pen, width, height, '#9a9484', true)],
  ceiling: ['Roof', drawLampRoomRoof],
}
const lampWalls: readonly LevelPlan[] = roomWalls(LAMP_ROOM).map(({ name, on, place, turn, pivot, width, height }) => {
  const [title, draw] = LAMP_WALLS[name]
  const carrier = on === null ? {} : { carrier: { kind: 'level' as const, levelId: `wall-${on}`, turn: true, size: true } }
  return { id: `wall-${name}`, name: title, depth: 0, fields: { ...turn, ...place, ...(pivot.y === 0 ? {} : { pivot }), ...carrier, scale: 1, group: 'Lamp room' }, drawings: { 1: (pen) => draw(pen, width, height) } }
})

/** Two cameras in one room, cut between by who speaks; at the end one goes out through the window. */
const lampNight: ShotPlan = {
  label: '060',
  title: 'Lamp room, night',
  sequenceId: 'lamp-room',
  panels: [
    { frames: 60, action: 'The flame is a thread. Oskar cups it with both hands.', dialogue: 'OSKAR: A little longer.' },
    { frames: 78, action: 'Feet on the stair. Tilda, out of breath, the lantern held high.', dialogue: 'TILDA: Here! It’s here!' },
  ],
  levels: [
    { id: 'lamp', name: 'Lamp', depth: 0.35, drawings: { 1: (pen) => drawLamp(pen, 0, -0.2, 0.34, 0.2), 2: (pen) => drawLamp(pen, 0, -0.2, 0.34, 0.55) } },
    { id: 'tilda', name: 'Tilda', depth: 0, drawings: { 2: (pen) => drawTilda(pen, 0.27, -0.25, 0.34, { ...POSES.stops, lantern: [-0.12, 0.1], look: -1, mouthOpen: true }) } },
    { id: 'oskar', name: 'Oskar', depth: 0.04, drawings: { 1: (pen) => drawOskar(pen, -0.24, -0.25, 0.36, false), 2: (pen) => drawOskar(pen, -0.24, -0.25, 0.36, true) } },
    { id: 'light', name: 'Light', depth: 0.4, locked: true, drawings: { 1: (pen) => drawLampLight(pen, 0, 0.025, 0.3), 2: (pen) => drawLampLight(pen, 0, 0.025, 0.55) } },
    ...lampWalls,
    {
      id: 'stars', name: 'Stars', depth: 3.9, locked: true,
      fields: { repeat: { count: 60, seed: 5, about: { x: 0, y: 0 }, lay: { kind: 'region', points: [-0.9, 0.02, 0.9, 0.02, 0.9, 0.42, -0.9, 0.42] }, depth: 0, rollDegrees: 0, size: 1, scatter: { ...NO_SCATTER, size: 0.5 }, stagger: 0 } },
      drawings: { 1: (pen) => drawStar(pen) },
    },
    { id: 'night', name: 'Night', depth: 4, locked: true, drawings: { 1: (pen) => drawNight(pen, -0.9, 0.9) } },
  ],
  // A is Oskar's, and holds the two of them at the end; B is Tilda's.
  framings: [
    { panel: 1, offset: 0, pose: { x: -0.14, y: -0.06, depth: REST.depth * 0.55 }, move: { timing: { kind: 'cushioned', leaveFrames: 20, arriveFrames: 30 }, path: { kind: 'straight' }, evenness: { kind: 'screen', subjectDepth: 0 } } },
    { panel: 1, offset: 56, pose: { x: -0.17, y: -0.05, depth: REST.depth * 0.48 }, move: { timing: { kind: 'hold' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } },
    { panel: 2, offset: 30, pose: { x: 0.01, y: -0.04, depth: REST.depth * 0.78 }, move: { timing: { kind: 'hold' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } },
    { panel: 2, offset: 54, pose: { x: 0.01, y: -0.04, depth: REST.depth * 0.78 }, move: { ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames: 8, arriveFrames: 10 } } },
    { panel: 2, offset: 77, pose: { x: 0.01, y: 0, depth: -2.4 } },
  ],
  others: {
    B: [
      { panel: 2, offset: 0, pose: { x: 0.2, y: -0.05, depth: REST.depth * 0.5 }, move: { ...CUSHIONED_MOVE, timing: { kind: 'cushioned', leaveFrames: 10, arriveFrames: 24 } } },
      { panel: 2, offset: 50, pose: { x: 0.22, y: -0.04, depth: REST.depth * 0.44 } },
    ],
  },
  cuts: [
    { frame: 0, letter: 'A' },
    { frame: 66, letter: 'B' },
    { frame: 114, letter: 'A', dissolveFrames: 16 },
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

const SHOTS = [lampDusk, boardwalkRun, gooseAtRail, lampNight, kiteOverMarsh]

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
    sets: { [BOARDWALK.id]: BOARDWALK },
    transitions: Object.fromEntries(TRANSITIONS.map((transition) => [transition.id, transition])),
  }
  const takes: Record<string, TakeBody> = {}
  const drawings: Record<string, Drawing> = {}
  const sets = { [BOARDWALK.id]: buildBoardwalk(REST.depth, drawings) }
  SHOTS.forEach((plan, index) => {
    const shotId = `shot-${plan.label}`
    const takeId = `take-${plan.label}-a`
    outline.shots[shotId] = { id: shotId, sequenceId: plan.sequenceId ?? 'boardwalk', order: orderOfNumber(index + 1), label: plan.label, title: plan.title, circledTakeId: takeId }
    outline.takes[takeId] = { id: takeId, shotId, order: 'a1', letter: 'A' }
    takes[takeId] = buildTake(plan, drawings, 1000 * (index + 1))
  })
  return withTakeByHand(freeze({ outline: freeze(outline), takes: freeze(takes), drawings: freeze(drawings), sets: freeze(sets), breakdowns: { [BREAKDOWN_ID]: freeze(BREAKDOWN) } }), 'shot-030', 'take-030-b', 'camera-a')
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
  const levelDrawings: Record<string, LevelDrawing> = {}
  const levelKeys: Record<string, LevelKey> = {}
  const anchorOf = (frame: number) => anchorOfFrame({ panels }, frame)!
  plan.levels.forEach(({ id, name, depth, locked = false, set, at = {}, fields = {}, drawings: byPanel = {}, art = {}, shows = [], keys = [] }, i) => {
    // Drawn as seen by the untouched camera, then set back along the rays: the picture stays.
    const scale = (depth - REST.depth) / -REST.depth
    const place = { ...(at.x === undefined ? {} : { x: at.x * scale }), ...(at.y === undefined ? {} : { y: at.y * scale }), ...(at.depth === undefined ? {} : { depth: at.depth }) }
    levels[id] = { ...newLevel({ id, order: orderOfNumber(i + 1), name, depth, scale, locked }), ...(set === undefined ? {} : { kind: 'set', setId: set }), ...(FIGURES.has(name) ? { figure: true } : {}), ...fields, ...place } as Level
    const drawn = (key: string, draw: (pen: Pen) => void, number: number) => {
      const pen = new Pen(seed + i * 50 + number)
      draw(pen)
      const drawingId = `d${plan.label}-${id}-${key}`
      drawings[drawingId] = pen.drawing()
      return drawingId
    }
    const put = (cell: Cell) => (cells[cell.id] = cell)
    if (set !== undefined) put(cellAt(id, panelId(1), 0, SET_SHOWN))
    for (const [number, draw] of Object.entries(byPanel)) put(cellAt(id, panelId(Number(number)), 0, drawn(number, draw, Number(number))))
    Object.entries(art).forEach(([key, draw], n) => {
      const named = { id: levelDrawingIdOf(id, drawn(key, draw, n + 10)), levelId: id, drawingId: `d${plan.label}-${id}-${key}`, name: key }
      levelDrawings[named.id] = named
    })
    for (const [frame, key] of shows) put(cellAt(id, anchorOf(frame).panelId, anchorOf(frame).offsetFrames, `d${plan.label}-${id}-${key}`))
    keys.forEach((key, n) => {
      const { frame, ...rest } = key
      levelKeys[`${id}-k${n + 1}`] = { id: `${id}-k${n + 1}`, levelId: id, ...anchorOf(frame), ...rest, locked: false }
    })
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
  const cameras: Record<string, Camera> = {}
  const framings: Record<string, Framing> = {}
  const cameraId = (letter: string) => `camera-${letter.toLowerCase()}`
  Object.entries({ A: plan.framings, ...plan.others }).forEach(([letter, own], n) => {
    cameras[cameraId(letter)] = { id: cameraId(letter), order: orderOfNumber(n + 1), letter, locked: false }
    own.forEach(({ panel, offset, pose, move = CUSHIONED_MOVE }, i) => {
      const id = letter === 'A' ? `f${i + 1}` : `f${letter.toLowerCase()}${i + 1}`
      framings[id] = { id, cameraId: cameraId(letter), panelId: panelId(panel), offsetFrames: offset, pose: { ...REST, ...pose }, move, locked: false }
    })
  })
  const cuts = Object.fromEntries((plan.cuts ?? []).map(({ frame, letter, dissolveFrames = 0 }, i) => [`c${i + 1}`, { id: `c${i + 1}`, ...anchorOf(frame), cameraId: cameraId(letter), dissolveFrames }]))
  const spans: Record<string, CameraSpan> = {}
  const spanEnds: Record<string, SpanEnd> = {}
  plan.spans?.forEach(({ first, last, span }, i) => {
    const id = `w${i + 1}`
    spans[id] = { ...span, id, cameraId: cameraId('A'), ...anchorOf(first) } as CameraSpan
    if (last !== null) spanEnds[id] = { id, spanId: id, ...anchorOf(last) }
  })
  const [air, airKeys]: [Record<string, AirRecord>, Record<string, AirKey>] = [{}, {}]
  plan.haze?.forEach(({ frame, value }, i) => {
    air.haze ??= { id: 'haze', ...value }
    airKeys[`haze-k${i + 1}`] = { id: `haze-k${i + 1}`, airId: 'haze', ...anchorOf(frame), value, move: CUSHIONED_MOVE, locked: false }
  })
  return { ...EMPTY_TAKE, panels, levels, cells, levelDrawings, levelKeys, cameras, framings, cuts, spans, spanEnds, presets, grounds, air, airKeys }
}
