import { useLocalStorage } from '@vueuse/core'
import type { Command } from '~/commands/command'
import { useViews } from '~/composables/view/useViews'
import { useCutsStore } from '~/stores/cuts'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useNeededStore } from '~/stores/needed'

export type Check = 'edges' | 'needed' | 'speed' | 'cuts'

/** Which of the checks the view shows; remembered. */
export const useShownCheck = () => useLocalStorage<Check>('rubato.check', 'edges')

/** Puts one of the checks beside the lens. */
function useShowCheck() {
  const desk = useDeskStore()
  const views = useViews()
  const check = useShownCheck()
  return (id: Check) => {
    check.value = id
    desk.view = 'desk'
    if (views.arranged.value.third !== 'checks') views.show('checks')
  }
}

export function checkCommands(): readonly Command[] {
  const edges = useEdgesStore()
  const needed = useNeededStore()
  const cuts = useCutsStore()
  const show = useShowCheck()
  return [
    { id: 'edges', name: 'Edges: does the art suffice?', group: 'View', keys: ['Alt+Shift+I'], run: () => show('edges') },
    { id: 'next-finding', name: 'The next finding, at its worst frame', group: 'View', keys: ['Alt+Shift+Q'], run: edges.next },
    { id: 'edges-film', name: 'Look through the whole film for art that runs out', group: 'View', keys: [], run: () => void edges.lookThroughFilm() },
    { id: 'needed', name: 'Art needed: what the moves of all shots see of the chosen levels', group: 'View', keys: ['Alt+Shift+R'], run: () => show('needed') },
    { id: 'speed', name: 'Speed on screen, and what strobes', group: 'View', keys: ['Alt+Shift+M'], run: () => show('speed') },
    { id: 'cuts', name: 'Cuts: how one picture follows another', group: 'View', keys: ['Alt+9'], run: () => show('cuts') },
    { id: 'next-cut', name: 'The next cut that asks to be looked at', group: 'View', keys: ['Alt+8'], run: cuts.next },
    { id: 'cuts-film', name: 'Read all cuts of the film', group: 'View', keys: [], run: () => void cuts.readFilm() },
    { id: 'needed-outline', name: 'Outline of the art needed, in Table and Draw, on or off', group: 'View', keys: ['Alt+Shift+B'], run: () => (needed.shown = !needed.shown) },
  ]
}
