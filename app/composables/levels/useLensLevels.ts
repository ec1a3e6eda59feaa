import { computed, ref } from 'vue'
import type { Command } from '~/commands/command'
import { offerCommands } from '~/commands/registry'
import { useLevelGestures, type LensSurface } from '~/composables/levels/useLevelGestures'
import { useLensLevel } from '~/composables/levels/useLevelWay'
import { useHeldKey } from '~/gestures/heldKeys'
import type { LevelHit } from '~/plan/levelHandles'
import { useDeskStore } from '~/stores/desk'
import { useLevelToolStore } from '~/stores/levelTool'

const CURSORS: Readonly<Record<LevelHit['kind'], string>> = { corner: 'nwse-resize', knob: 'crosshair', pivot: 'crosshair', key: 'grab', mark: 'move', art: 'move' }

/** Levels in hand in the lens view: what is seen of them, what the pointer is over, what the hand and the arrows do. */
export function useLensLevels(surface: LensSurface) {
  const desk = useDeskStore()
  const tool = useLevelToolStore()
  const told = ref<string | null>(null)
  const cursor = ref('move')
  const level = useLensLevel(surface.toPane)
  const isHeld = useHeldKey('w')
  /** A drag pulls a travel: W is held, or that is what drags are set to. */
  const pulling = computed(() => isHeld.value || tool.drag === 'pull')
  const gestures = useLevelGestures(surface, level, (text) => (told.value = text), () => pulling.value)

  function onHover(event: PointerEvent) {
    if (desk.tool !== 'level' || event.buttons !== 0 || desk.playing) return
    const hit = gestures.hit(event)
    cursor.value = hit === null ? 'default' : CURSORS[hit.kind]
  }

  const arrow = (keys: string, dx: number, dy: number): Command[] =>
    [false, true].map((far) => ({
      id: `level-${keys}${far ? '-far' : ''}`,
      name: `Nudge the chosen levels ${keys.replace('Arrow', '').toLowerCase()}${far ? ', ten times as far' : ''}`,
      group: 'Levels',
      keys: [far ? `Shift+${keys}` : keys],
      run: () => gestures.nudge(dx, dy, far),
      enabled: () => desk.tool === 'level' && desk.chosenLevelIds.length > 0 && !desk.playing,
    }))
  offerCommands([...arrow('ArrowLeft', -1, 0), ...arrow('ArrowRight', 1, 0), ...arrow('ArrowUp', 0, 1), ...arrow('ArrowDown', 0, -1)])

  return { handles: level.handles, way: level.way, drawn: computed(() => tool.drawn), told, cursor, pulling, onDown: gestures.onDown, onHover }
}
