import type { Picture } from '@rubato/core/document'
import { changeOnGround, clearGround, drawOnGround, editGround } from '@rubato/core/edits'
import { simplifyStroke } from '@rubato/core/ink'
import { storeToRefs } from 'pinia'
import { computed } from 'vue'
import { PICTURE_LIMIT_BYTES, PICTURE_TYPES } from '#shared/assets'
import { uploadFile } from '~/api/upload'
import { useArt } from '~/composables/view/useArt'
import { followDrag } from '~/gestures/drag'
import { fromPx, toPx, type DrawnScale, type Px } from '~/plan/elevation'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useUnderlayStore } from '~/stores/underlay'
import { RIM_PX } from '~/viewport/artLibrary'

const WIDTH_PX = 2
/** Half a px of a plan that shows a frame width in 200. */
const TOLERANCE_FW = 0.0025
const GAP_FW = 0.3

/** What lies under the plan, to place things by: drawn there or a placed picture. Never part of a picture that is handed over. */
export function useGround() {
  const { pencil, bringing } = storeToRefs(useUnderlayStore())
  const film = useFilmStore()
  const desk = useDeskStore()
  const art = useArt()
  const ground = computed(() => desk.take?.grounds.ground ?? null)
  const drawing = computed(() => (ground.value === null ? null : film.drawingOf(ground.value.drawingId)))
  const picture = computed(() => (drawing.value?.marks.findLast((mark) => mark.kind === 'picture') as Picture | undefined) ?? null)
  const version = computed(() => [ground.value, drawing.value, art.artVersion.value])

  /** Draws it, where x is across and depth upwards. */
  function draw(context: CanvasRenderingContext2D, scale: DrawnScale, ratio: number) {
    if (ground.value === null || !ground.value.visible || drawing.value === null) return
    const library = art.library()
    const raster = library.raster(ground.value.drawingId, drawing.value, library.octaveFor(drawing.value, scale.pxPerFw * ratio))
    if (raster === null) return
    const perPx = 1 / raster.pxPerFw
    const at = toPx(scale, { x: raster.left - RIM_PX * perPx, depth: raster.top + RIM_PX * perPx })
    context.globalAlpha = ground.value.opacity
    context.drawImage(raster.canvas, at.x, at.y, raster.canvas.width * perPx * scale.pxPerFw, raster.canvas.height * perPx * scale.pxPerFw)
    context.globalAlpha = 1
  }

  /** A line drawn with the plan's pencil. */
  function stroke(event: PointerEvent, local: (event: { clientX: number; clientY: number }) => Px, scaleNow: () => DrawnScale) {
    const takeId = desk.takeId
    if (takeId === null) return
    const points: number[] = []
    const id = crypto.randomUUID()
    const newDrawingId = crypto.randomUUID()
    const gesture = film.beginGesture('draw under the plan')
    const add = (at: PointerEvent) => {
      const px = local(at)
      const { across, up } = fromPx(scaleNow(), px.x, px.y)
      points.push(across, up, 0.5)
    }
    const update = (kept: readonly number[]) =>
      gesture.update((f) => drawOnGround(f.takes[takeId]!, takeId, f.drawings, { id, kind: 'stroke', mode: 'ink', points: [...kept], widthFw: WIDTH_PX / scaleNow().pxPerFw, colour: '#6b6455', opacity: 1, thinning: 0 }, newDrawingId))
    add(event)
    followDrag(
      event,
      {
        move: ({ event: step }) => {
          for (const each of step.getCoalescedEvents?.() ?? [step]) add(each)
          update(points)
        },
        end: () => (update(simplifyStroke(points, TOLERANCE_FW, GAP_FW)), gesture.commit()),
        cancel: () => gesture.abandon(),
        click: () => gesture.abandon(),
      },
      0,
    )
  }

  function choosePicture() {
    const input = document.createElement('input')
    input.type = 'file'
    input.accept = PICTURE_TYPES.join()
    input.onchange = () => input.files?.[0] !== undefined && void place(input.files[0])
    input.click()
  }

  async function place(file: File) {
    const takeId = desk.takeId
    if (takeId === null) return
    const gate = new AbortController()
    const tell = (share: number) => (bringing.value = { share, cancel: () => gate.abort(new Error('Cancelled.')) })
    tell(0)
    try {
      if (file.size > PICTURE_LIMIT_BYTES) throw new Error(`The file is larger than ${PICTURE_LIMIT_BYTES / 1024 / 1024} MB. Save it smaller and try again.`)
      if (file.size === 0) throw new Error('The file is empty.')
      const { hash, widthPx, heightPx } = await uploadFile(file, 'picture', tell, gate.signal)
      // As wide as the set is: from the camera to the farthest level.
      const depths = desk.levels.map((level) => desk.placeOf(level.id).depth)
      const [near, far] = [desk.pose?.depth ?? -1.4, Math.max(0.6, ...depths)]
      const widthFw = ((far - near) * widthPx) / heightPx
      film.perform('place a plan', (f) =>
        drawOnGround(f.takes[takeId]!, takeId, f.drawings, { id: crypto.randomUUID(), kind: 'picture', assetHash: hash, widthPx, heightPx, x: 0, y: (near + far) / 2, widthFw }, crypto.randomUUID()),
      )
    } catch (error) {
      if (!gate.signal.aborted) film.refuse(`“${file.name}” was not placed under the plan. ${(error as Error).message}`)
    } finally {
      bringing.value = null
    }
  }

  function change(fields: Partial<Pick<Picture, 'x' | 'y' | 'widthFw' | 'turnDegrees'>>, label: string) {
    const [takeId, mark] = [desk.takeId, picture.value]
    if (takeId !== null && mark !== null) film.perform(label, (f) => changeOnGround(f.takes[takeId]!, f.drawings, { ...mark, ...fields }), `ground:${label}`)
  }
  function edit(fields: { opacity?: number; visible?: boolean }, label: string) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform(label, (f) => editGround(f.takes[takeId]!, takeId, fields), fields.opacity === undefined ? null : 'ground:opacity')
  }
  function clear() {
    const takeId = desk.takeId
    pencil.value = false
    if (takeId !== null) film.perform('clear what lies under the plan', (f) => clearGround(f.takes[takeId]!, takeId))
  }

  return { ground, picture, version, pencil, bringing, draw, stroke, choosePicture, change, edit, clear }
}
