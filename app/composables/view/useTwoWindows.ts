import type { CameraPose } from '@rubato/core/camera'
import type { LevelValues } from '@rubato/core/moves'
import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, ref, watch } from 'vue'
import { useFinishedFramesStore } from '~/stores/finishedFrames'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Where the first window is. */
interface Whereabouts {
  readonly kind: 'at'
  readonly playhead: number
  /** The same by shot: a version's shots may lie elsewhere, and be of other lengths. */
  readonly shotId: string | null
  readonly shotFrame: number
  readonly playing: boolean
  readonly levelId: string | null
  readonly alsoLevelIds: readonly string[]
  readonly framingIds: readonly string[]
  /** The camera that is looked through though another is live, and where a hand has it, or had it in a try that is looked at. */
  readonly cameraId: string | null
  readonly operated: CameraPose | null
  readonly trial: { readonly shotId: string; readonly frame: number; readonly pose: CameraPose } | null
  /** Of the levels that are tried, each with its values. */
  readonly levelTrial: { readonly shotId: string; readonly frame: number; readonly values: readonly (readonly [string, Partial<LevelValues>])[] } | null
}
type Message =
  | Whereabouts
  /** A second window is there, and asks where the first is. */
  | { readonly kind: 'hello' }
  /** The first window is closed. */
  | { readonly kind: 'gone' }
  /** What was done in the second window, for the first to do. */
  | { readonly kind: 'go'; readonly playhead: number }
  | { readonly kind: 'play' }
  | { readonly kind: 'chosen'; readonly levelId: string | null; readonly alsoLevelIds: readonly string[]; readonly framingIds: readonly string[] }

const channelOf = (projectId: string) => new BroadcastChannel(`rubato.windows.${projectId}`)
const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** The first window tells second ones where it is: its clock is the sound's, so its frame is everyone's. */
export function useFirstWindow() {
  const desk = useDeskStore()
  const film = useFilmStore()
  const playback = usePlayback()
  let channel: BroadcastChannel | null = null
  /** Until a second window asks, nothing is sent. */
  let heard = false

  const tell = () => {
    if (channel === null || !heard) return
    const { playhead, playing, selectedLevelId: levelId, alsoLevelIds, selectedFramingIds: framingIds, trial } = desk
    const levelTrial = desk.levelTrial === null ? null : { ...desk.levelTrial, values: [...desk.levelTrial.values] }
    const cameraId = desk.isLookingAside ? desk.cameraAtWorkId : null
    channel.postMessage(plain({ kind: 'at', cameraId, operated: desk.operatedHere, shotId: desk.shotId, shotFrame: desk.shotFrame, playhead, playing, levelId, alsoLevelIds, framingIds, trial, levelTrial } satisfies Whereabouts))
  }
  // Sent in the same turn as the playhead is set: the other window draws along with this one.
  watch(() => [desk.playhead, desk.playing, desk.selectedLevelId, desk.alsoLevelIds, desk.selectedFramingIds, desk.trial, desk.levelTrial, desk.isLookingAside ? desk.cameraAtWorkId : null, desk.operatedHere], tell, { flush: 'sync' })
  watch(
    () => film.projectId,
    (id) => {
      channel?.postMessage({ kind: 'gone' } satisfies Message)
      channel?.close()
      heard = false
      channel = id === null ? null : channelOf(id)
      if (channel === null) return
      channel.onmessage = ({ data }: MessageEvent<Message>) => {
        if (data.kind === 'hello') {
          heard = true
          tell()
        } else if (data.kind === 'go') {
          playback.stop()
          desk.goTo(data.playhead)
        } else if (data.kind === 'play') playback.toggle()
        else if (data.kind === 'chosen') {
          desk.selectedLevelId = data.levelId
          desk.alsoLevelIds = data.alsoLevelIds
          desk.selectedFramingIds = data.framingIds
        }
      }
    },
    { immediate: true },
  )
  const leave = () => channel?.postMessage({ kind: 'gone' } satisfies Message)
  useEventListener(window, 'pagehide', leave)
  onBeforeUnmount(() => {
    leave()
    channel?.close()
    channel = null
  })
}

/** A second window follows the first one's playhead and playback, and hands on what is done in it. Of a version it only follows. */
export function useSecondWindow(projectId: string, isVersion = false) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { quality } = usePlayback()
  const cache = useFinishedFramesStore()
  const connected = ref(false)
  const channel = channelOf(projectId)
  /** What came from the first window is not told back to it. */
  let from: Whereabouts | null = null
  let applying = false
  let newest: Whereabouts | null = null
  /** What is posted here comes after the messages that wait already; timers and animation frames are put off in a window that lies behind. */
  const turn = new MessageChannel()
  const ask = () => channel.postMessage({ kind: 'hello' } satisfies Message)
  const asking = setInterval(() => !connected.value && ask(), 1000)

  channel.onmessage = ({ data }: MessageEvent<Message>) => {
    if (data.kind === 'gone') {
      connected.value = false
      desk.playing = false
    }
    if (data.kind !== 'at') return
    connected.value = true
    // While a frame was drawn others may have come: only the newest is shown, so that nothing piles up.
    if (newest === null) turn.port2.postMessage(null)
    newest = data
  }
  turn.port1.onmessage = () => {
    const data = newest
    newest = null
    if (data !== null) follow(data)
  }

  function follow(data: Whereabouts) {
    from = data
    applying = true
    if (data.playing !== desk.playing) {
      if (data.playing) cache.playFrom(placeOf(data), 1)
      else cache.playEnded()
    }
    desk.playing = data.playing
    // Slow frames lowered it while it played; at rest the picture is whole.
    if (!data.playing) quality.value = 1
    desk.playhead = placeOf(data)
    applying = false
    if (isVersion) return
    desk.operatedAt = data.operated === null ? null : () => data.operated
    desk.pressedCameraId = data.playing ? data.cameraId : null
    if (!data.playing && (desk.isLookingAside ? desk.cameraAtWorkId : null) !== data.cameraId) desk.lookThrough(data.cameraId)
    if (data.playing) return
    choose(data)
    if (JSON.stringify(desk.trial) !== JSON.stringify(data.trial)) desk.trial = data.trial
    desk.levelTrial = data.levelTrial === null ? null : { ...data.levelTrial, values: new Map(data.levelTrial.values) }
  }
  /** The frame that the first window shows, in the film that is seen here. */
  function placeOf({ playhead, shotId, shotFrame }: Whereabouts): number {
    const placed = isVersion ? film.filmStage.shots.find(({ shot }) => shot.id === shotId) : undefined
    return placed === undefined ? Math.min(playhead, Math.max(0, desk.lengthFrames - 1)) : placed.startFrame + Math.min(shotFrame, Math.max(0, placed.lengthFrames - 1))
  }
  function choose({ levelId, alsoLevelIds, framingIds }: Whereabouts) {
    desk.selectedLevelId = levelId
    desk.alsoLevelIds = alsoLevelIds
    desk.selectedFramingIds = framingIds
  }
  // What was chosen in a shot that is only now loaded was let go of meanwhile.
  watch(
    () => (desk.take === null ? null : desk.takeId),
    () => from !== null && !desk.playing && !isVersion && choose(from),
    { flush: 'post' },
  )
  const isHere = (levelId: string) => desk.levels.some((level) => level.id === levelId)
  watch(
    () => desk.playhead,
    (playhead) => connected.value && !applying && !isVersion && channel.postMessage({ kind: 'go', playhead } satisfies Message),
    { flush: 'sync' },
  )
  watch(
    () => [desk.selectedLevelId, desk.alsoLevelIds, desk.selectedFramingIds] as const,
    ([levelId, alsoLevelIds, framingIds]) => {
      const same = from !== null && levelId === from.levelId && JSON.stringify([alsoLevelIds, framingIds]) === JSON.stringify([from.alsoLevelIds, from.framingIds])
      const lost = levelId === null && from !== null && from.levelId !== null && !isHere(from.levelId)
      if (connected.value && !isVersion && !same && !lost && !desk.playing) channel.postMessage(plain({ kind: 'chosen', levelId, alsoLevelIds, framingIds } satisfies Message))
    },
  )
  ask()
  onBeforeUnmount(() => {
    clearInterval(asking)
    turn.port1.close()
    channel.close()
  })
  return { connected, togglePlay: () => channel.postMessage({ kind: 'play' } satisfies Message), ask }
}
