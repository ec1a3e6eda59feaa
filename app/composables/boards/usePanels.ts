import { addPanel, duplicatePanels, removePanels } from '@rubato/core/edits'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Panels made, copied and taken out where the playhead stands, and going from one to the next. */
export function usePanels() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const playback = usePlayback()

  function go(frame: number) {
    playback.stop()
    desk.goTo(frame)
  }

  /** A new panel holds what every level showed; a duplicate has the words, and copies of the figures to change. */
  function newPanel(duplicate: boolean) {
    const [takeId, panel, project] = [desk.takeId, desk.placedPanel, film.project]
    if (takeId === null || panel === null || project === null) return
    const start = (desk.placedShot?.startFrame ?? 0) + panel.startFrame
    const id = crypto.randomUUID()
    const done = film.perform(duplicate ? 'duplicate panel' : 'new panel', (f) =>
      duplicate ? duplicatePanels(f.takes[takeId]!, takeId, [panel.panel.id], [id]) : addPanel(f.takes[takeId]!, takeId, id, panel.panel.id, project.defaultPanelFrames),
    )
    if (done) go(start + panel.panel.lengthFrames)
  }

  function deletePanel() {
    const [takeId, panel] = [desk.takeId, desk.placedPanel]
    if (takeId === null || panel === null) return
    const done = film.perform(`delete panel ${panel.index + 1}`, (f) =>
      f.takes[takeId] !== undefined && Object.keys(f.takes[takeId].panels).length === 1 ? { ok: false, refusal: { code: 'last-panel' } } : removePanels(f, film.project!.id, takeId, [panel.panel.id], () => crypto.randomUUID()),
    )
    if (done) desk.goTo(desk.playhead)
  }

  const start = () => desk.placedShot?.startFrame ?? 0
  const next = () => desk.placedPanel && go(start() + desk.placedPanel.startFrame + desk.placedPanel.panel.lengthFrames)
  /** The first frame of the panel before, also across shots. */
  function previous() {
    const panel = desk.placedPanel
    if (panel === null) return
    const before = start() + panel.startFrame - 1
    if (before < 0) return
    go(before)
    go(start() + (desk.placedPanel?.startFrame ?? 0))
  }

  return { go, newPanel, deletePanel, next, previous }
}
