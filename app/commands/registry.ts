import { computed, onBeforeUnmount, shallowRef } from 'vue'
import type { Command } from './command'

const registered = shallowRef<readonly (readonly Command[])[]>([])

/** What can be done now, by name and by key: what the views on the screen offer. The last to come that is enabled wins a key. */
export function useCommands() {
  const commands = computed(() => registered.value.flat())
  const commandFor = (keys: string): Command | undefined => commands.value.findLast((command) => command.keys.includes(keys) && command.enabled?.() !== false)
  return { commands, commandFor }
}

/** Offers commands for as long as the calling component is there. */
export function offerCommands(commands: readonly Command[]) {
  registered.value = [...registered.value, commands]
  onBeforeUnmount(() => (registered.value = registered.value.filter((each) => each !== commands)))
}
