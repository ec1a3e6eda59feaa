import { CUT_FORMATS } from './cuts'

/** What a format is made of. */
export type Needs = 'frames' | 'sound' | 'words' | 'stage' | 'cut' | 'checks' | 'boards'

/** What is known of a format without making it: read by the dialog, the queue and the command line. */
export interface FormatFacts {
  readonly label: string
  readonly extension: string
  readonly needs: Needs
  /** Where it can be made: in the window, or by a worker of the server's queue. */
  readonly made: 'window' | 'server' | 'either'
  /** Of frames: how each is handed on, as RGBA pixels as a PNG file, or as one for each level. */
  readonly frame?: 'pixels' | 'png' | 'layers'
  /** Of frames: whether the film's sound may be in it. */
  readonly sound?: boolean
  /** Of a shot: its art, not where that stands. */
  readonly art?: boolean
  /** Of frames: the least size, px, that it can have. */
  readonly leastPx?: readonly [width: number, height: number]
}

const cut = (as: keyof typeof CUT_FORMATS) => ({ label: CUT_FORMATS[as].label, extension: CUT_FORMATS[as].extension, needs: 'cut', made: 'window' }) as const

/** Everything that a film is handed over as. */
export const HANDED_OVER = {
  webm: { label: 'Movie (WebM)', extension: 'webm', needs: 'frames', made: 'window', frame: 'pixels', sound: true },
  mp4: { label: 'Movie (MP4: H.264, AAC)', extension: 'mp4', needs: 'frames', made: 'either', frame: 'pixels', sound: true },
  mov: { label: 'Movie for the edit (MOV: VC-3, every frame whole)', extension: 'mov', needs: 'frames', made: 'server', frame: 'pixels', sound: true, leastPx: [256, 120] },
  png: { label: 'Numbered pictures (PNG, zipped)', extension: 'zip', needs: 'frames', made: 'either', frame: 'png', sound: false },
  layers: { label: 'Each level as numbered pictures (PNG and JSON, zipped)', extension: 'zip', needs: 'frames', made: 'either', frame: 'layers', sound: false },
  wav: { label: 'Sound alone (WAV)', extension: 'wav', needs: 'sound', made: 'either' },
  glb: { label: 'Set and cameras in 3D (glTF, .glb)', extension: 'glb', needs: 'stage', made: 'either' },
  camera: { label: 'Camera, frame by frame (CSV)', extension: 'csv', needs: 'stage', made: 'either' },
  cameraJson: { label: 'Camera, frame by frame (JSON)', extension: 'json', needs: 'stage', made: 'either' },
  ora: { label: 'Panels as layers (OpenRaster, one each, zipped)', extension: 'zip', needs: 'stage', made: 'either', art: true },
  oraLevels: { label: 'Levels of a shot as layers (OpenRaster)', extension: 'ora', needs: 'stage', made: 'either', art: true },
  svg: { label: 'Drawings as lines (SVG, zipped)', extension: 'zip', needs: 'stage', made: 'either', art: true },
  otio: cut('otio'),
  edl: cut('edl'),
  edls: cut('edls'),
  marks: cut('marks'),
  fountain: { label: 'Boarded words as Fountain', extension: 'fountain', needs: 'words', made: 'window' },
  srt: { label: 'Dialogue as subtitles (SRT)', extension: 'srt', needs: 'words', made: 'window' },
  pdf: { label: 'Boards to print (PDF)', extension: 'pdf', needs: 'boards', made: 'server' },
  check: { label: 'Findings of the checks (JSON)', extension: 'json', needs: 'checks', made: 'server' },
  vtt: { label: 'Dialogue as subtitles (WebVTT)', extension: 'vtt', needs: 'words', made: 'window' },
} as const satisfies Readonly<Record<string, FormatFacts>>

export type FormatId = keyof typeof HANDED_OVER
export const factsOf = (id: FormatId): FormatFacts => HANDED_OVER[id]
/** Whether it is always a file a shot: what it is of has no place in another. */
export const isByShot = (id: FormatId): boolean => ((facts) => facts.needs === 'stage' || facts.frame === 'layers')(factsOf(id))
export const madeOnServer = (id: FormatId): boolean => factsOf(id).made !== 'window'
