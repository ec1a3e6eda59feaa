/** What the strip shows, in film frames. Only what is in view is put in. */
export interface StripScene {
  readonly shots: readonly StripShot[]
  readonly lengthFrames: number
  readonly framesPerSecond: number
  readonly timecode: (frame: number) => string
  /** A live value to show beside the pointer; null for none. */
  readonly live: { readonly frame: number; readonly row: 'panels' | 'camera'; readonly text: string } | null
}

export interface StripShot {
  readonly id: string
  readonly label: string
  readonly title: string
  readonly startFrame: number
  readonly lengthFrames: number
  readonly current: boolean
  /** Null until the take's body is loaded. */
  readonly body: StripBody | null
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
  readonly current: boolean
  readonly thumb: CanvasImageSource | null
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
