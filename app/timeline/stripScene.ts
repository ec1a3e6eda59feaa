import type { Lane, MarkMeaning, Transition } from '@rubato/core/document'
import type { StripRows } from './stripRows'
import type { Peaks } from '@rubato/core/sound'

/** What the strip shows, in film frames. Only what is in view is put in. */
export interface StripScene {
  readonly rows: StripRows
  readonly shots: readonly StripShot[]
  readonly lengthFrames: number
  readonly framesPerSecond: number
  readonly timecode: (frame: number) => string
  /** `takeId/panelId` of the panel under the playhead; null for none. */
  readonly currentPanel: string | null
  /** `takeId/panelId` of those chosen. */
  readonly chosen: ReadonlySet<string>
  readonly marks: readonly StripMark[]
  /** From top to bottom. */
  readonly lanes: readonly StripLane[]
  readonly transitions: readonly StripTransition[]
  /** Where a recording might be split, film frames: proposed, to be taken or left. */
  readonly proposals: readonly { readonly clipId: string; readonly frame: number }[]
  readonly range: { readonly start: number; readonly end: number } | null
  /** Where what is carried would be put down: a frame between two panels, or two shots. */
  readonly drop: { readonly frame: number; readonly row: 'panels' | 'shots' } | null
  /** What a drag snapped to. */
  readonly snapFrame: number | null
  /** A live value to show beside the pointer; null for none. */
  readonly live: { readonly frame: number; readonly row: 'ruler' | 'shots' | 'panels' | 'cuts' | 'camera' | 'work' | 'level' | { readonly lane: string }; readonly text: string } | null
}

/** A lane of sound, below the rows of the picture. */
export interface StripLane {
  readonly id: string
  readonly top: number
  readonly height: number
  readonly kind: Lane['kind']
  readonly heard: boolean
  readonly clips: readonly StripClip[]
}

/** A clip; frames of the film may be fractions. */
export interface StripClip {
  readonly id: string
  readonly startFrame: number
  readonly endFrame: number
  readonly name: string
  readonly line: string
  readonly fadeInFrames: number
  readonly fadeOutFrames: number
  /** 1 as recorded; the wave is drawn so much higher. */
  readonly gain: number
  readonly chosen: boolean
  /** Tied to the film's start instead of a shot. */
  readonly free: boolean
  /** What is drawn of the recording; null while its peaks are not there. */
  readonly wave: { readonly peaks: Peaks; readonly fromSeconds: number; readonly lengthSeconds: number } | null
  /** Why it is silent; null where it is not. */
  readonly trouble: string | null
}

export interface StripTransition {
  readonly id: string
  readonly kind: Transition['kind']
  readonly at: Transition['at']
  readonly from: number
  readonly to: number
  readonly cutFrame: number
  readonly colour: string
  readonly chosen: boolean
}

export interface StripMark {
  readonly id: string
  readonly frame: number
  readonly name: string
  readonly meaning: MarkMeaning
  readonly selected: boolean
}

export interface StripShot {
  readonly id: string
  readonly takeId: string
  readonly label: string
  readonly title: string
  readonly startFrame: number
  readonly lengthFrames: number
  readonly current: boolean
  readonly chosen: boolean
  /** Null until the take's body is loaded, and where its panels are too narrow to be told apart. */
  readonly body: StripBody | null
  /** Small pictures by panel id, of those wide enough to show one. */
  readonly thumbs: ReadonlyMap<string, CanvasImageSource & { readonly width: number; readonly height: number }>
  /** Where art runs out or paper is bare, by the shot's frames. */
  readonly found: readonly { readonly kind: 'runs-out' | 'gap'; readonly from: number; readonly to: number }[]
  /** 1 for each frame that is finished for playback; null for none. */
  readonly ready: Uint8Array | null
}

export interface StripBody {
  readonly panels: readonly StripPanel[]
  readonly beads: readonly StripBead[]
  /** Which camera is live, from cut to cut. */
  readonly cuts: readonly StripCut[]
  /** Where the camera follows, aims or is held by hand. */
  readonly spans: readonly StripSpan[]
  /** The camera's speed on screen leaving each frame, fw a frame. */
  readonly speeds: Float32Array
  readonly moves: readonly { readonly fromFrame: number; readonly toFrame: number; readonly name: string }[]
  /** The selected level's keys, those of one frame together. */
  readonly keys: readonly StripKey[]
  /** What it shows, one run after the other; `holds` from where it only holds on into the next panel. */
  readonly runs: readonly StripRun[]
  /** Where it is under way. */
  readonly ways: readonly { readonly fromFrame: number; readonly toFrame: number }[]
}

export interface StripPanel {
  readonly id: string
  readonly number: number
  readonly startFrame: number
  readonly lengthFrames: number
  readonly locked: boolean
}

/** A drawing that the selected level shows for so many frames. */
export interface StripRun {
  readonly fromFrame: number
  readonly toFrame: number
  /** Past this it holds over the end of the panel that it began in. */
  readonly holdsFrom: number
}

/** Keys of a level that stand on one frame. */
export interface StripKey {
  readonly ids: readonly string[]
  readonly frame: number
  readonly selected: boolean
  readonly locked: boolean
}

/** A camera that is live up to the next cut. */
export interface StripCut {
  readonly fromFrame: number
  /** The first frame of the next, or of what follows the shot. */
  readonly toFrame: number
  readonly letter: string
  /** Which of the shot's cameras, from 0. */
  readonly index: number
  readonly atWork: boolean
  readonly selected: boolean
  /** The frames in which it comes in over the one before, `to` exclusive; null: it cuts. */
  readonly dissolve: { readonly from: number; readonly to: number } | null
  readonly picture: (CanvasImageSource & { readonly width: number; readonly height: number }) | null
}

/** A stretch of the camera's. */
export interface StripSpan {
  readonly id: string
  readonly kind: 'follow' | 'aim' | 'hand'
  readonly name: string
  readonly fromFrame: number
  /** Its last. */
  readonly toFrame: number
  /** It ends with the shot. */
  readonly open: boolean
  /** How much of it is seen at some of its frames, from its first to its last: 0…1. */
  readonly weights: readonly { readonly frame: number; readonly weight: number }[]
  /** Those that lie over each other are side by side: which it is, and of how many. */
  readonly lane: number
  readonly lanes: number
  readonly selected: boolean
}

export interface StripBead {
  readonly id: string
  readonly number: number
  readonly frame: number
  /** 0 for the first framing of the shot, 1 for the last. */
  readonly shade: number
  readonly selected: boolean
  readonly locked: boolean
}

export const panelKey = (takeId: string, panelId: string) => `${takeId}/${panelId}`
