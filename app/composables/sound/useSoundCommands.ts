import type { Command } from '~/commands/command'
import { useSound } from '~/composables/sound/useSound'
import { useTransitions } from '~/composables/strip/useTransitions'
import { useDeskStore } from '~/stores/desk'
import { useSoundStore } from '~/stores/sound'

/** Sound and transitions by name and by key. Before the commands for panels: with a clip chosen, keys are the clip's. */
export function soundCommands(): readonly Command[] {
  const sound = useSoundStore()
  const desk = useDeskStore()
  const acts = useSound()
  const transitions = useTransitions()
  const chosen = () => sound.chosenClips.length > 0 && desk.tool !== 'pen'
  const single = () => sound.chosenClips.length === 1
  const one = (act: (id: string) => unknown) => () => void act(sound.chosenClips[0]!.id)
  const make = (id: string, name: string, keys: readonly string[], run: () => void, more: Partial<Command> = {}): Command => ({ id, name, group: 'Sound', keys, run, ...more })

  return [
    make('sound-bring', 'Bring recordings in at the playhead…', ['Shift+I'], () => acts.pick()),
    make('sound-voice', 'A scratch line under this panel…', ['Shift+R'], () => (sound.voicing = 'words')),
    make('sound-record', 'Record from a microphone…', [], () => (sound.voicing = 'microphone')),
    make('sound-scrub', 'Hear while scrubbing, on or off', ['Alt+H'], () => (sound.scrubbing = !sound.scrubbing)),
    make('sound-tray', 'The tray of clips whose shot is gone', [], () => (sound.trayOpen = !sound.trayOpen)),
    make('sound-lane', 'New lane of sound', [], () => void acts.newLane('effects')),
    make('clip-split', 'Split the chosen clip at the playhead', ['Y'], acts.splitHere, { enabled: chosen }),
    make('clip-duplicate', 'Duplicate the chosen clip', ['Shift+N'], acts.duplicate, { enabled: chosen }),
    make('clip-delete', 'Delete the chosen clip', ['Delete', 'Backspace'], acts.remove, { enabled: chosen }),
    make('clip-tie-film', 'Tie the chosen clip to the film’s start', [], () => void acts.tie(null), { enabled: chosen }),
    make('clip-tie-shot', 'Tie the chosen clip to this shot', [], () => void (desk.shotId !== null && acts.tie(desk.shotId)), { enabled: chosen }),
    make('clip-under-panel', 'Place the chosen clip under its panel', [], one(acts.placeUnderPanel), { enabled: single }),
    make('clip-panel-to-line', 'The panel lasts as long as the chosen line', [], one(acts.panelToLine), { enabled: single }),
    make('clip-none', 'Choose no clip or transition', ['Escape'], sound.chooseNothing, { enabled: () => (sound.chosen.length > 0 || sound.transitionId !== null) && desk.trial === null && desk.levelTrial === null && desk.tool !== 'pen' }),
    make('transition', 'Transition at the nearest cut', ['Shift+C'], transitions.putHere),
    make('transition-delete', 'Delete the chosen transition', ['Delete', 'Backspace'], () => void (sound.transitionId !== null && transitions.remove(sound.transitionId)), { enabled: () => sound.transitionId !== null && desk.tool !== 'pen' }),
  ]
}
