import type { DepthRefusal } from '../../depth/keepPicture'
import type { Edit } from './edit'

/** Why an edit can't be made, for the wording to explain. */
export type MakeRefusal =
  | { readonly code: 'missing'; readonly what: 'panel' | 'level' | 'framing' | 'camera' | 'shot' | 'drawing' | 'sequence' | 'passage' | 'mark' | 'lane' | 'clip' | 'transition' | 'preset' | 'span' | 'cut' | 'take' | 'try' | 'set' | 'air' | 'finding' | 'column'; readonly id: string }
  | { readonly code: 'length-out-of-range'; readonly received: number; readonly min: number; readonly max: number }
  | { readonly code: 'last-panel' | 'last-shot' | 'last-camera' | 'last-take' }
  | { readonly code: 'level-locked' | 'key-locked' | 'framing-locked' | 'camera-locked' | 'length-locked'; readonly id: string }
  | { readonly code: 'last-sequence' | 'not-side-by-side' | 'too-short-to-split' | 'nothing-to-cut' | 'has-alternates' }
  /** No panel after can give or take time. */
  | { readonly code: 'nobody-gives' }
  /** The panel that gives can give `most` frames. */
  | { readonly code: 'gives-too-little'; readonly asked: number; readonly most: number }
  /** Fermatas, and a frame for each other panel, come to `least` frames. */
  | { readonly code: 'fit-too-short'; readonly asked: number; readonly least: number }
  | { readonly code: 'fit-all-held'; readonly asked: number; readonly heldFrames: number }
  /** It would hang on itself: by name, each on the next, and the last on the first. */
  | { readonly code: 'carrier-circle'; readonly id: string; readonly names: readonly string[] }
  /** Empty, longer than 12 letters, or another drawing's. */
  | { readonly code: 'drawing-name'; readonly name: string }
  | { readonly code: 'carriers-too-deep' | 'carrier-shows-nothing'; readonly id: string }
  | { readonly code: 'too-many-cameras'; readonly most: number }
  /** It travels with a camera, or hangs on what turns to one, so that none can go after it. */
  | { readonly code: 'target-hangs'; readonly id: string }
  /** A camera goes after it, so it can't be made to hang on one. */
  | { readonly code: 'followed-hangs'; readonly id: string; readonly camera: string }
  /** Follow, aim or hand-held go by the framings there. */
  | { readonly code: 'spans-work-there'; readonly id: string }
  /** Of samples. */
  | { readonly code: 'try-too-long'; readonly received: number; readonly most: number }
  | { readonly code: 'between-keys' | 'between-air-keys' }
  /** The camera comes to rest at that frame of the shot. */
  | { readonly code: 'still-settling'; readonly restsAtFrame: number }
  | { readonly code: 'pose-not-finite' }
  /** Farther than the set reaches, fw, or larger than a level can be. */
  | { readonly code: 'out-of-reach'; readonly received: number; readonly most: number }
  | { readonly code: 'words-too-long'; readonly received: number; readonly most: number }
  | { readonly code: 'nothing-to-paste' | 'nothing-to-hold' }
  /** From the frame it is to begin at the shot has room for `most` frames. */
  | { readonly code: 'move-too-long'; readonly asked: number; readonly most: number }
  | { readonly code: 'nothing-after'; readonly what: 'frame' | 'framing' }
  /** Not inside the clip, or less than a frame from one of its ends. */
  | { readonly code: 'clip-not-there' }
  /** The shots on both sides have room for `most` frames. */
  | { readonly code: 'transition-too-long'; readonly asked: number; readonly most: number }
  | { readonly code: 'nothing-before' }
  | { readonly code: 'label-taken'; readonly label: string }
  | { readonly code: 'nothing-selected' }
  | { readonly code: 'too-many-columns'; readonly most: number }
  | { readonly code: 'spread-ends' }
  /** A set has no time and no camera: a level that needs either, hangs between, or is locked, can't be part of one. */
  | { readonly code: 'not-for-a-set'; readonly name: string; readonly why: 'reference' | 'set' | 'keys' | 'drawings' | 'camera' | 'followed' | 'locked' | 'follows' }
  | { readonly code: 'too-many-pieces'; readonly received: number; readonly most: number }
  | { readonly code: 'set-has-no-time' | 'set-has-no-references' | 'piece-stays' | 'piece-carries' | 'piece-followed'; readonly id: string }
  | { readonly code: 'set-in-use'; readonly name: string; readonly shots: number }
  /** What the change stands on has been taken away since. */
  | { readonly code: 'ground-gone' }
  | DepthRefusal

export interface Refused {
  readonly ok: false
  readonly refusal: MakeRefusal
}
export type Made = { readonly ok: true; readonly edits: readonly Edit[] } | Refused

export function made(...edits: readonly Edit[]): Made {
  return { ok: true, edits }
}

export function refused(refusal: MakeRefusal): Refused {
  return { ok: false, refusal }
}
