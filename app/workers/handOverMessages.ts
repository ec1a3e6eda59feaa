import type { Optics } from '@rubato/core/camera'
import type { Drawing, Project, TakeBody } from '@rubato/core/document'
import type { OpenedScene, SceneBrought, SceneWishes } from '@rubato/core/scene'
import type { Rate } from '@rubato/core/time'

/** A 3D scene for a shot; `wishes` null: only what is in it is told. `ids` begins the ids of all that is new. */
export interface SceneInAsk {
  readonly file: File
  readonly takeId: string
  readonly take: TakeBody
  readonly wishes: SceneWishes | null
  readonly rate: Rate
  readonly optics: Optics
  readonly ids: string
}
export interface ToldScene extends Pick<OpenedScene, 'title' | 'seconds' | 'own' | 'keysPerSecond' | 'notes'> {
  readonly cameras: readonly { readonly name: string; readonly cameraId: string | null; readonly moves: boolean }[]
  /** Of this shot. */
  readonly levels: number
  readonly carriers: number
  readonly shapes: number
  /** How many it lasts, told as time or a key a frame. */
  readonly frames: { readonly time: number; readonly keys: number }
}
export interface SceneAnswer {
  readonly told: ToldScene
  readonly brought: SceneBrought | null
}

/** A list of a cut, for a film of this rate whose first frame has this timecode. */
export interface CutAsk {
  readonly file: File
  readonly rate: Rate
  readonly startFrame: number
}

/** Shots whose sets and cameras are written, each as its own file. */
export interface StageAsk {
  readonly format: string
  readonly project: Project
  /** With sets unfolded. */
  readonly shots: readonly { readonly label: string; readonly startFrame: number; readonly takeId: string; readonly take: TakeBody }[]
  readonly drawings: Readonly<Record<string, Drawing>>
  /** What the files are called, without a shot and an ending. */
  readonly stem: string
  readonly pictureBase: string
  /** Of one shot, a panel alone. */
  readonly panelId?: string
}
export interface MadeStages {
  readonly file: Blob
  readonly name: string
}
