import { inOrder, type Clip, type Lane } from '@rubato/core/document'
import { placeSound, type PlacedSound } from '@rubato/core/sound'
import { soundCrossings } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { SoundPlan } from '~/workers/soundPlan'
import { withEachFilm } from './eachFilm'
import { useFilmStore } from './film'

const LANE_HEIGHT_PX = 29
const LANE_HEIGHTS_PX = Object.freeze({ min: 22, max: 160 })

/** Splits of a recording that are proposed and wait to be taken or left. */
export interface Proposals {
  readonly clipId: string
  /** Seconds of the recording. */
  readonly atSeconds: readonly number[]
}

/** The film's sound where it stands, and how the artist works on it. */
export const useSoundStore = defineStore('sound', () => {
  const film = useFilmStore()
  const chosen = shallowRef<readonly string[]>([])
  const transitionId = ref<string | null>(null)
  /** The lane that new sound goes into. */
  const laneId = ref<string | null>(null)
  const heights = useLocalStorage<Record<string, number>>('rubato.laneHeights', {})
  const scrubbing = useLocalStorage('rubato.scrubSound', true)
  const volume = useLocalStorage('rubato.volume', 1)
  /** Pauses before and after a line, frames, where a panel is given its length. */
  const headFrames = useLocalStorage('rubato.lineHead', 6)
  const tailFrames = useLocalStorage('rubato.lineTail', 8)
  const proposals = shallowRef<Proposals | null>(null)
  const trayOpen = ref(false)
  /** A dialog in which lines are made or recorded. */
  const voicing = ref<'words' | 'microphone' | null>(null)
  /** Recordings that can't be had, and why. */
  const troubles = shallowRef<ReadonlyMap<string, string>>(new Map())

  const lanes = computed<readonly Lane[]>(() => inOrder(film.outline.lanes))
  const clips = computed(() => film.outline.clips)
  const crossings = computed(() => (film.project === null ? [] : soundCrossings(film.filmStage.transitions, film.project.rate)))
  const startOf = (shotId: string) => film.filmStage.placeOf(shotId)?.startFrame ?? null
  const placed = computed<PlacedSound>(() => placeSound({ lanes: film.outline.lanes, clips: clips.value }, film.project?.rate ?? { numerator: 24, denominator: 1 }, startOf, crossings.value))

  /** The film's sound as workers are sent it. */
  function plan(): SoundPlan | null {
    if (film.project === null || placed.value.clips.length === 0) return null
    const all = placed.value.clips.map(({ clip }) => ({ ...clip }))
    const starts = Object.fromEntries(all.flatMap(({ shotId }) => (shotId === null ? [] : [[shotId, startOf(shotId)!]])))
    return { rate: { ...film.project.rate }, lanes: lanes.value.map((lane) => ({ ...lane })), clips: all, starts, crossings: crossings.value.map((each) => ({ ...each })) }
  }

  const chosenClips = computed<readonly Clip[]>(() => chosen.value.flatMap((id) => clips.value[id] ?? []))
  const heightOf = (id: string) => heights.value[id] ?? LANE_HEIGHT_PX
  const setHeight = (id: string, px: number) => (heights.value = { ...heights.value, [id]: Math.round(Math.min(LANE_HEIGHTS_PX.max, Math.max(LANE_HEIGHTS_PX.min, px))) })

  function choose(id: string, how: 'only' | 'toggle' = 'only') {
    transitionId.value = null
    if (how === 'toggle') chosen.value = chosen.value.includes(id) ? chosen.value.filter((each) => each !== id) : [...chosen.value, id]
    else chosen.value = [id]
  }
  function chooseTransition(id: string | null) {
    chosen.value = []
    transitionId.value = id
  }
  const chooseNothing = () => {
    if (chosen.value.length > 0) chosen.value = []
    transitionId.value = null
  }
  const trouble = (hash: string, what: string) => (troubles.value = new Map([...troubles.value, [hash, what]]))

  withEachFilm(() => {
    chooseNothing()
    laneId.value = null
    proposals.value = null
    trayOpen.value = false
    voicing.value = null
    troubles.value = new Map()
  })

  return { chosen, chosenClips, transitionId, laneId, heights, scrubbing, volume, headFrames, tailFrames, proposals, trayOpen, voicing, troubles, lanes, clips, crossings, placed, plan, startOf, heightOf, setHeight, choose, chooseTransition, chooseNothing, trouble }
})
