import type { MarkMeaning } from '@rubato/core/document'

/** What the strip shows, in film frames. Only what is in view is put in. */
export interface StripScene {
  readonly shots: readonly StripShot[]
  readonly lengthFrames: number
  readonly framesPerSecond: number
  readonly timecode: (frame: number) => string
  /** `takeId/panelId` of the panel under the playhead; null for none. */
  readonly currentPanel: string | null
  /** `takeId/panelId` of those chosen. */
  readonly chosen: ReadonlySet<string>
  readonly marks: readonly StripMark[]
  readonly range: { readonly start: number; readonly end: number } | null
  /** Where what is carried would be put down: a frame between two panels, or two shots. */
  readonly drop: { readonly frame: number; readonly row: 'panels' | 'shots' } | null
  /** What a drag snapped to. */
  readonly snapFrame: number | null
  /** A live value to show beside the pointer; null for none. */
  readonly live: { readonly frame: number; readonly row: 'ruler' | 'shots' | 'panels' | 'camera'; readonly text: string } | null
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
  /** 1 for each frame that is finished for playback; null for none. */
  readonly ready: Uint8Array | null
}

export interface StripBody {
  readonly panels: readonly StripPanel[]
  readonly beads: readonly StripBead[]
  /** The camera's speed on screen leaving each frame, fw a frame. */
  readonly speeds: Float32Array
  readonly moves: readonly { readonly fromFrame: number; readonly toFrame: number; readonly name: string }[]
}

export interface StripPanel {
  readonly id: string
  readonly number: number
  readonly startFrame: number
  readonly lengthFrames: number
  readonly locked: boolean
  /** What the selected level does in the panel: has a drawing of its own, holds one, shows nothing; null where none is selected. */
  readonly level: 'own' | 'holds' | 'nothing' | null
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
