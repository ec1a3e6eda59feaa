import { shorten } from '@rubato/core/document'
import type { Mark, WordFont, Words } from '@rubato/core/document'
import type { Lens } from '@rubato/core/camera'
import type { LevelPlane } from '@rubato/core/depth'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { withEachFilm } from './eachFilm'

export type PenTool = 'brush' | 'eraser' | 'line' | 'box' | 'ellipse' | 'fill' | 'select' | 'lasso' | 'tone' | 'words' | 'arrow'

/** How words begin, and arrows. */
export interface WordsLook {
  readonly font: WordFont
  readonly align: Words['align']
  /** As high as an em is seen through the lens. */
  readonly emFw: number
  readonly forPrint: boolean
}
export interface ArrowLook {
  /** As it is seen through the lens. */
  readonly widthFw: number
  /** As it is drawn; else straight. */
  readonly bent: boolean
  readonly tapers: boolean
  readonly both: boolean
  readonly forPrint: boolean
}

/** How the brush draws. Sizes are fw as seen through the lens, so they are the same on every level. */
export interface Brush {
  readonly widthFw: number
  readonly colour: string
  readonly opacity: number
  /** How much pressure tells, 0…1. */
  readonly thinning: number
  /** How much the hand is steadied, 0…1. */
  readonly smoothing: number
}

export interface Pencil extends Brush {
  readonly id: string
  readonly name: string
  /** Made by the artist: can be renamed and taken out. */
  readonly own: boolean
}

export const BRUSH_FW = { min: 0.0005, max: 0.1 } as const
export const ERASER_FW = { min: 0.002, max: 0.3 } as const
export const MOST_GHOSTS = 3
export const TONES = ['#27241e', '#6b6455', '#b9b3a3', '#e4dfd2', '#ffffff', '#2a6a99', '#c2452d', '#b27b1b', '#2e7a68', '#77476f'] as const

const PENCILS: readonly Pencil[] = [
  { id: 'pencil', name: 'Pencil', widthFw: 0.0026, colour: '#27241e', opacity: 1, thinning: 0.6, smoothing: 0.25, own: false },
  { id: 'marker', name: 'Marker', widthFw: 0.0078, colour: '#27241e', opacity: 1, thinning: 0.15, smoothing: 0.4, own: false },
  { id: 'wash', name: 'Tone', widthFw: 0.03, colour: '#b9b3a3', opacity: 0.7, thinning: 0.05, smoothing: 0.4, own: false },
  { id: 'knock-out', name: 'Knock-out', widthFw: 0.014, colour: '#ffffff', opacity: 1, thinning: 0.1, smoothing: 0.3, own: false },
  { id: 'rough', name: 'Blue rough', widthFw: 0.0034, colour: '#2a6a99', opacity: 0.6, thinning: 0.7, smoothing: 0.15, own: false },
]

/** The panels before and after that show through. */
export interface GhostSettings {
  on: boolean
  before: number
  after: number
  strength: number
  /** Of the selected level, or of all. */
  all: boolean
  /** Both neighbours at half strength, for the drawing between. */
  halfway: boolean
}

/** How the paper lies: none of it touches the camera. */
export interface Paper {
  readonly zoom: number
  /** The frame's middle from the view's, CSS px, before turning. */
  readonly x: number
  readonly y: number
  readonly turnDegrees: number
  readonly flipped: boolean
}
export const FLAT_PAPER: Paper = Object.freeze({ zoom: 1, x: 0, y: 0, turnDegrees: 0, flipped: false })

/** Marks taken along, with where they were seen: they are put down where they seem to be the same. */
export interface Clipboard {
  readonly marks: readonly Mark[]
  readonly lens: Lens
  readonly plane: LevelPlane
  readonly from: string
}

/** The pen and the paper: of this window, not of the film. */
export const usePenStore = defineStore('pen', () => {
  const tool = ref<PenTool>('brush')
  const brush = useLocalStorage<Brush>('rubato.brush', { ...PENCILS[0]! }, { mergeDefaults: true })
  const pencilId = useLocalStorage('rubato.pencil', 'pencil')
  const ownPencils = useLocalStorage<readonly Pencil[]>('rubato.pencils', [])
  const eraserFw = useLocalStorage('rubato.eraser', 0.02)
  const words = useLocalStorage<WordsLook>('rubato.words', { font: 'plain', align: 'start', emFw: 0.04, forPrint: false }, { mergeDefaults: true })
  const arrow = useLocalStorage<ArrowLook>('rubato.arrow', { widthFw: 0.009, bent: false, tapers: true, both: false, forPrint: false }, { mergeDefaults: true })
  /** Strokes lie behind what the level shows. */
  const behind = ref(false)
  /** Gaps up to this wide, in px of the output, are taken as closed. */
  const gapPx = useLocalStorage('rubato.gap', 6)
  /** Fill within the lines of everything seen, not only of the level's own. */
  const fillSeen = useLocalStorage('rubato.fillSeen', false)
  const ghosts = useLocalStorage<GhostSettings>('rubato.ghosts', { on: true, before: 1, after: 1, strength: 0.55, all: false, halfway: false }, { mergeDefaults: true })
  /** How far other levels fade towards paper white, 0…1. */
  const fade = useLocalStorage('rubato.fade', 0.5)
  const silhouette = ref(false)
  /** The frame of the shot that shows in the place of this one; null for itself. */
  const flipFrame = ref<number | null>(null)
  /** Draw shows the sheet of exposures, not the paper. */
  const sheetOpen = ref(false)
  const editHeld = ref(false)
  const solo = shallowRef<readonly string[]>([])
  const paper = ref<Paper>(FLAT_PAPER)
  const selectedMarks = shallowRef<readonly string[]>([])
  const clipboard = shallowRef<Clipboard | null>(null)
  /** A pen was used in this session: touch is the hand that rests, and never draws. */
  const penSeen = ref(false)

  const pencils = computed<readonly Pencil[]>(() => [...PENCILS, ...ownPencils.value])
  const pencil = computed(() => pencils.value.find((each) => each.id === pencilId.value) ?? null)
  /** The brush is no longer as its pencil has it. */
  const changed = computed(() => {
    const kept = pencil.value
    return kept !== null && (['widthFw', 'colour', 'opacity', 'thinning', 'smoothing'] as const).some((field) => kept[field] !== brush.value[field])
  })

  withEachFilm(() => {
    tool.value = 'brush'
    solo.value = []
    selectedMarks.value = []
    paper.value = FLAT_PAPER
    behind.value = editHeld.value = silhouette.value = sheetOpen.value = false
    flipFrame.value = null
  })

  function take(kept: Pencil) {
    pencilId.value = kept.id
    const { widthFw, colour, opacity, thinning, smoothing } = kept
    brush.value = { widthFw, colour, opacity, thinning, smoothing }
    if (tool.value !== 'line' && tool.value !== 'box' && tool.value !== 'ellipse') tool.value = 'brush'
  }

  function setBrush(fields: Partial<Brush>) {
    brush.value = { ...brush.value, ...fields }
  }

  function resize(factor: number) {
    if (tool.value === 'arrow') arrow.value = { ...arrow.value, widthFw: Math.min(BRUSH_FW.max, Math.max(BRUSH_FW.min, arrow.value.widthFw * factor)) }
    else if (tool.value === 'eraser') eraserFw.value = Math.min(ERASER_FW.max, Math.max(ERASER_FW.min, eraserFw.value * factor))
    else setBrush({ widthFw: Math.min(BRUSH_FW.max, Math.max(BRUSH_FW.min, brush.value.widthFw * factor)) })
  }

  /** Keeps the brush as a pencil of its own. */
  function keepPencil(name: string): Pencil {
    const kept = { ...brush.value, id: crypto.randomUUID(), name: shorten(name, 40), own: true }
    ownPencils.value = [...ownPencils.value, kept]
    pencilId.value = kept.id
    return kept
  }

  function updatePencil(id: string, fields: Partial<Pencil>) {
    ownPencils.value = ownPencils.value.map((each) => (each.id === id ? { ...each, ...fields } : each))
  }

  function dropPencil(id: string) {
    ownPencils.value = ownPencils.value.filter((each) => each.id !== id)
    if (pencilId.value === id) take(PENCILS[0]!)
  }

  return { tool, words, arrow, brush, pencilId, pencils, pencil, changed, ownPencils, eraserFw, behind, gapPx, fillSeen, ghosts, fade, silhouette, flipFrame, sheetOpen, editHeld, solo, paper, selectedMarks, clipboard, penSeen, take, setBrush, resize, keepPencil, updatePencil, dropPencil }
})

