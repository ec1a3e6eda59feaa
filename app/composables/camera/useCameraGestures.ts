import { slidePose, truckPose, turnPose, zoomPose, type CameraPose } from '@rubato/core/camera'
import { useEventListener } from '@vueuse/core'
import { watch, type Ref } from 'vue'
import { useReach } from '~/composables/camera/useReach'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** How much a wheel's px trucks or zooms, and after how long without any it is over, ms. */
const GROWTH_A_PX = 0.0012
const WHEEL_ENDS_MS = 350

/** The camera in hand, in the picture: a drag slides it (Shift pans and tilts), the wheel trucks (Alt zooms). */
export function useCameraGestures(pane: Readonly<Ref<HTMLElement | null>>, frame: Readonly<Ref<{ readonly width: number; readonly height: number }>>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { reach } = useReach()

  function onDown(event: PointerEvent) {
    const start = desk.pose
    const optics = film.optics
    if (start === null || optics === null) return
    const z = reach(start)
    const turning = event.shiftKey
    let camera: ReturnType<typeof desk.beginCamera> | null = null
    followDrag(event, {
      begin: () => (camera = desk.beginCamera()),
      move: ({ dx, dy, axis }) => {
        const du = axis === 'y' ? 0 : dx / frame.value.width
        const dv = axis === 'x' ? 0 : -dy / frame.value.width
        if (axis === 'depth') return camera!.update(truckPose(start, z, Math.exp(-dy / frame.value.height)))
        camera!.update(turning ? turnPose(start, optics, du, dv) : slidePose(start, optics, du, dv, z))
      },
      end: () => camera?.end(),
      cancel: () => camera?.abandon(),
    })
  }

  let wheel: { camera: ReturnType<typeof desk.beginCamera>; pose: CameraPose; timer: ReturnType<typeof setTimeout> } | null = null

  /** A wheel turns without an end, so a pause ends it. */
  function onWheel(event: WheelEvent) {
    if (event.ctrlKey || desk.pose === null || film.optics === null || desk.playing) return
    event.preventDefault()
    const steps = event.deltaMode === 1 ? event.deltaY * 16 : event.deltaY || event.deltaX
    const growth = Math.exp(-steps * GROWTH_A_PX)
    if (wheel === null) wheel = { camera: desk.beginCamera(event.altKey ? 'zoom' : 'truck'), pose: desk.pose, timer: 0 as never }
    wheel.pose = event.altKey ? zoomPose(wheel.pose, growth) : truckPose(wheel.pose, reach(wheel.pose), growth)
    wheel.camera.update(wheel.pose)
    clearTimeout(wheel.timer)
    wheel.timer = setTimeout(endWheel, WHEEL_ENDS_MS)
  }

  function endWheel() {
    if (wheel === null) return
    clearTimeout(wheel.timer)
    wheel.camera.end()
    wheel = null
  }
  watch(() => [desk.playhead, desk.shotId], endWheel)
  useEventListener(pane, 'wheel', onWheel, { passive: false })

  return { onDown }
}
