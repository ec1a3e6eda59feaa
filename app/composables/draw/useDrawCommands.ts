import type { Command } from '~/commands/command'
import type PaperView from '~/components/draw/PaperView.vue'
import { useExposures } from '~/composables/draw/useExposures'
import { useLinesOut } from '~/composables/draw/useLinesOut'
import { useLevels } from '~/composables/levels/useLevels'
import { usePanels } from '~/composables/boards/usePanels'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useReference } from '~/composables/levels/useReference'
import { useShots } from '~/composables/boards/useShots'
import { useDeskStore } from '~/stores/desk'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { usePenStore, type PenTool } from '~/stores/pen'

type Paper = InstanceType<typeof PaperView>

/** Tools and pencils by key: the same in Draw and in the lens view. `use` takes the pen up where that is needed. */
export function penCommands(use: () => void = () => undefined): readonly Command[] {
  const pen = usePenStore()
  const tool = (id: PenTool, name: string, keys: string): Command => ({ id: `pen-${id}`, name, group: 'Ink', keys: [keys], run: () => (use(), void (pen.tool = id)) })
  return [
    tool('brush', 'Pencil', 'P'),
    tool('eraser', 'Eraser', 'E'),
    tool('line', 'Line', 'L'),
    tool('box', 'Box', 'X'),
    tool('ellipse', 'Ellipse', 'O'),
    tool('fill', 'Fill an area', 'G'),
    tool('select', 'Select marks by rectangle or click', 'A'),
    tool('lasso', 'Select marks by a line around them', 'Alt+A'),
    tool('tone', 'Pick a tone from the picture', 'T'),
    { id: 'pen-behind', name: 'Paint behind on or off', group: 'Ink', keys: ['B'], run: () => (pen.behind = !pen.behind) },
    { id: 'thinner', name: 'Thinner line', group: 'Ink', keys: ['['], run: () => pen.resize(1 / 1.25) },
    { id: 'thicker', name: 'Thicker line', group: 'Ink', keys: [']'], run: () => pen.resize(1.25) },
    { id: 'pen-held', name: 'Edit the held drawing, or start anew', group: 'Ink', keys: ['Shift+H'], run: () => (pen.editHeld = !pen.editHeld) },
    { id: 'ghosts', name: 'Ghost panels on or off', group: 'Ink', keys: ['J'], run: () => (pen.ghosts.on = !pen.ghosts.on) },
    ...Array.from({ length: 9 }, (_, i): Command => ({
      id: `pencil-${i + 1}`,
      name: `Take up pencil ${i + 1}`,
      group: 'Ink',
      keys: [String(i + 1)],
      run: () => {
        const kept = pen.pencils[i]
        if (kept === undefined) return
        use()
        pen.take(kept)
      },
    })),
  ]
}

type Marks = Readonly<Record<'all' | 'none' | 'cut' | 'paste' | 'duplicate' | 'remove' | 'flipAcross' | 'flipUpDown' | 'recolour', () => void>> & {
  readonly copy: () => boolean
  readonly nudge: (dx: number, dy: number, far: boolean) => void
}

/** What is done with selected marks, in Draw and in the lens view; there only while some are selected. */
export function markCommands(marks: () => Marks | undefined, enabled: () => boolean = () => true, arrows: { readonly left: () => void; readonly right: () => void } | null = null): readonly Command[] {
  const pen = usePenStore()
  /** Arrows nudge what is selected. */
  const arrow = (keys: string, dx: number, dy: number, otherwise: () => void = () => undefined): Command[] =>
    [false, true].map((far) => ({
      id: `nudge-${keys}${far ? '-far' : ''}`,
      name: `Nudge the selection ${keys.replace('Arrow', '').toLowerCase()}${far ? ', ten times as far' : ''}`,
      group: 'Ink',
      keys: [far ? `Shift+${keys}` : keys],
      run: () => (pen.selectedMarks.length > 0 ? marks()?.nudge(dx, dy, far) : otherwise()),
    }))
  const commands: readonly Command[] = [
    { id: 'marks-none', name: 'Select nothing', group: 'Ink', keys: ['Escape'], run: () => marks()?.none() },
    { id: 'marks-copy', name: 'Copy the selection', group: 'Ink', keys: ['Ctrl+C'], run: () => void marks()?.copy() },
    { id: 'marks-cut', name: 'Cut the selection', group: 'Ink', keys: ['Ctrl+X'], run: () => marks()?.cut() },
    { id: 'marks-paste', name: 'Paste on this level, in this panel', group: 'Ink', keys: ['Ctrl+V'], run: () => marks()?.paste() },
    { id: 'marks-duplicate', name: 'Duplicate the selection', group: 'Ink', keys: ['Ctrl+D'], run: () => marks()?.duplicate() },
    { id: 'marks-delete', name: 'Delete the selection', group: 'Ink', keys: ['Delete', 'Backspace'], run: () => marks()?.remove() },
    { id: 'marks-across', name: 'Flip the selection left to right', group: 'Ink', keys: ['Shift+X'], run: () => marks()?.flipAcross() },
    { id: 'marks-updown', name: 'Flip the selection top to bottom', group: 'Ink', keys: ['Shift+Y'], run: () => marks()?.flipUpDown() },
    { id: 'marks-tone', name: 'Give the selection the brush’s tone', group: 'Ink', keys: ['Shift+T'], run: () => marks()?.recolour() },
    ...arrow('ArrowLeft', -1, 0, arrows?.left),
    ...arrow('ArrowRight', 1, 0, arrows?.right),
    ...arrow('ArrowUp', 0, 1),
    ...arrow('ArrowDown', 0, -1),
  ]
  return commands.map((command) => ({ ...command, enabled }))
}

/** Every command of Draw, for its keys, its palette and its buttons. */
export function useDrawCommands(paper: () => Paper | null): readonly Command[] {
  const film = useFilmStore()
  const desk = useDeskStore()
  const pen = usePenStore()
  const faceOn = useFaceOnStore()
  const levels = useLevels()
  const panels = usePanels()
  const playback = usePlayback()
  const { newShot } = useShots()
  const { choose } = useReference()
  const exposures = useExposures()
  const { save: saveLines } = useLinesOut()
  const lies = () => paper()?.paper
  const marks = () => paper()?.selection
  return [
    ...penCommands(),
    { id: 'pen-words', name: 'Words', group: 'Ink', keys: ['W'], run: () => void (pen.tool = 'words') },
    { id: 'pen-arrow', name: 'Arrow', group: 'Ink', keys: ['Shift+W'], run: () => void (pen.tool = 'arrow') },
    { id: 'back-figure', name: 'Back the figure with paper white', group: 'Ink', keys: ['Shift+B'], run: () => void paper()?.back() },
    { id: 'silhouette', name: 'Silhouette on or off', group: 'Ink', keys: ['S'], run: () => (pen.silhouette = !pen.silhouette) },
    { id: 'halfway', name: 'Halfway: both neighbours at half strength', group: 'Ink', keys: ['H'], run: () => (pen.ghosts.halfway = !pen.ghosts.halfway) },
    { id: 'flip-panels', name: 'Flip to the drawing before (hold)', group: 'Ink', keys: ['F'], run: () => paper()?.startFlipping() },
    { id: 'flip-through', name: 'Flip through the drawings around, at the film’s rate (hold)', group: 'Ink', keys: ['Shift+F'], run: () => paper()?.startRunning() },
    { id: 'sheet', name: 'Sheet of exposures, or the paper', group: 'View', keys: ['V'], run: () => (pen.sheetOpen = !pen.sheetOpen) },
    { id: 'new-drawing', name: 'New drawing of this level at the playhead', group: 'Levels', keys: ['I'], run: () => exposures.newHere() },
    { id: 'copy-drawing', name: 'Copy of what this level shows, at the playhead', group: 'Levels', keys: ['Shift+I'], run: () => exposures.copyHere() },
    { id: 'marks-all', name: 'Select all of the drawing', group: 'Ink', keys: ['Ctrl+A'], run: () => (marks()?.all(), void (pen.tool = 'select')) },
    ...markCommands(marks, () => true, { left: panels.previous, right: panels.next }),
    { id: 'paper-left', name: 'Turn the paper left', group: 'View', keys: ['Ctrl+ArrowLeft'], run: () => lies()?.turn(-15) },
    { id: 'paper-right', name: 'Turn the paper right', group: 'View', keys: ['Ctrl+ArrowRight'], run: () => lies()?.turn(15) },
    { id: 'paper-straight', name: 'Lay the paper straight', group: 'View', keys: ['Ctrl+ArrowUp'], run: () => lies()?.straighten() },
    { id: 'paper-flip', name: 'Flip the paper over', group: 'View', keys: ['M'], run: () => lies()?.flip() },
    { id: 'paper-square', name: 'Square on: the selected level face on, or as the camera sees it', group: 'View', keys: ['Alt+Q'], run: () => faceOn.show('square') },
    { id: 'paper-open', name: 'Folded open: the level and all that is hinged to it, flat', group: 'View', keys: ['Alt+E'], run: () => faceOn.show('open') },
    { id: 'paper-fit', name: 'Fit the frame', group: 'View', keys: ['Z'], run: () => lies()?.fit() },
    { id: 'paper-whole', name: 'Paper at 100 %', group: 'View', keys: ['Shift+Z'], run: () => lies()?.oneToOne() },
    { id: 'paper-in', name: 'Zoom in', group: 'View', keys: ['+', '='], run: () => lies()?.zoom(1.25) },
    { id: 'paper-out', name: 'Zoom out', group: 'View', keys: ['-'], run: () => lies()?.zoom(1 / 1.25) },
    { id: 'play', name: 'Play or pause (tap Space; Space held and dragged moves the paper)', group: 'Time', keys: [], run: playback.toggle },
    { id: 'frame-back', name: 'One frame back', group: 'Time', keys: [','], run: () => panels.go(desk.playhead - 1) },
    { id: 'frame-on', name: 'One frame on', group: 'Time', keys: ['.'], run: () => panels.go(desk.playhead + 1) },
    { id: 'shot-start', name: 'To the shot’s first frame', group: 'Time', keys: ['Home'], run: () => panels.go(desk.placedShot?.startFrame ?? 0) },
    { id: 'shot-end', name: 'To the shot’s last frame', group: 'Time', keys: ['End'], run: () => panels.go((desk.placedShot?.startFrame ?? 0) + (desk.placedShot?.lengthFrames ?? 1) - 1) },
    { id: 'next-panel', name: 'Next panel', group: 'Time', keys: ['PageDown'], run: panels.next },
    { id: 'previous-panel', name: 'Panel before', group: 'Time', keys: ['PageUp'], run: panels.previous },
    { id: 'next-shot', name: 'Next shot', group: 'Time', keys: ['Shift+PageDown'], run: () => desk.placedShot && panels.go(desk.placedShot.startFrame + desk.placedShot.lengthFrames) },
    { id: 'previous-shot', name: 'Shot before', group: 'Time', keys: ['Shift+PageUp'], run: () => panels.go(film.filmStage.shots[(desk.placedShot?.index ?? 0) - 1]?.startFrame ?? 0) },
    { id: 'new-panel', name: 'New panel after this one', group: 'Time', keys: ['N'], run: () => panels.newPanel(false) },
    { id: 'duplicate-panel', name: 'Duplicate this panel, with its figures to change', group: 'Time', keys: ['Shift+N'], run: () => panels.newPanel(true) },
    { id: 'delete-panel', name: 'Delete this panel', group: 'Time', keys: ['Ctrl+Shift+Delete'], run: panels.deletePanel },
    { id: 'new-level', name: 'New level', group: 'Levels', keys: ['Shift+L'], run: () => void levels.add() },
    { id: 'duplicate-level', name: 'Duplicate the selected level', group: 'Levels', keys: ['Ctrl+Shift+D'], run: () => desk.selectedLevel && levels.duplicate(desk.selectedLevel) },
    { id: 'nearer-level', name: 'Select the level nearer to the lens', group: 'Levels', keys: ['Alt+ArrowUp'], run: () => desk.stepLevel(-1) },
    { id: 'farther-level', name: 'Select the level farther from the lens', group: 'Levels', keys: ['Alt+ArrowDown'], run: () => desk.stepLevel(1) },
    { id: 'solo-level', name: 'Show the selected level alone, or all', group: 'Levels', keys: ['Shift+S'], run: () => desk.selectedLevelId !== null && levels.solo([desk.selectedLevelId]) },
    { id: 'hold-again', name: 'Hold again: take the drawing in this panel away', group: 'Levels', keys: [], run: () => desk.selectedLevel && levels.holdAgain(desk.selectedLevel) },
    { id: 'blank-level', name: 'Blank the level from this panel on', group: 'Levels', keys: [], run: () => desk.selectedLevel && levels.blank(desk.selectedLevel) },
    { id: 'drawing-svg', name: 'Save this drawing as lines (SVG)', group: 'Levels', keys: [], run: () => void saveLines() },
    { id: 'reference', name: 'Bring in a reference…', group: 'Levels', keys: [], run: choose },
    { id: 'new-shot', name: 'New shot after this one', group: 'Film', keys: ['Alt+N'], run: () => void newShot() },
  ]
}
