/** Something the artist can do by name or by key. */
export interface Command {
  readonly id: string
  readonly name: string
  readonly group: 'Boards' | 'Time' | 'Sound' | 'Camera' | 'Levels' | 'Ink' | 'View' | 'Film'
  /** As `event.key` with modifiers in the order Ctrl, Alt, Shift: `Ctrl+Shift+Z`. Several may do the same. */
  readonly keys: readonly string[]
  readonly run: () => void
  readonly enabled?: () => boolean
  /** A key held down does it once only. */
  readonly once?: boolean
  /** Its keys are heard in fields and lists too, unless there they mean what is being typed or asked for. */
  readonly inFields?: boolean
}

/** The name of the keys pressed, as commands give them. ⌘ counts as Ctrl. */
export function keysOf(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  const { key } = event
  const named = key === ' ' ? 'Space' : key.length === 1 ? key.toUpperCase() : key
  const letter = /^[A-Z]$/.test(named) || named.length > 1
  // On most keyboards Shift is part of how a sign is typed, so it counts for letters and named keys only.
  const shift = event.shiftKey && letter
  return `${event.ctrlKey || event.metaKey ? 'Ctrl+' : ''}${event.altKey ? 'Alt+' : ''}${shift ? 'Shift+' : ''}${named}`
}

export function isTyping(target: EventTarget | null): boolean {
  const element = target as HTMLElement | null
  if (element === null || typeof element.closest !== 'function') return false
  // A list whose keys are commands says so.
  const field = element.closest('[data-keys], input:not([type=range]):not([type=checkbox]), textarea, select, [contenteditable=true], [role=combobox], [role=listbox], [role=menu], [role=dialog]')
  // A dialog on its way out has the focus still, and asks for nothing any more.
  return field !== null && !field.hasAttribute('data-keys') && field.closest('[class*="leave-active"]') === null
}

const HOLDS_TEXT = 'textarea, [contenteditable=true], input:not([type=range], [type=checkbox], [type=radio], [type=color], [type=file])'

/** Whether undoing here means words that aren't the film's yet: typed and not kept (a field that has kept all says so), or in a dialog that asks. */
export function undoesItsOwn(target: EventTarget | null): boolean {
  const element = target as HTMLElement | null
  if (element === null || typeof element.closest !== 'function') return false
  if (element.closest('.p-dialog, [data-asks]') !== null) return true
  const field = element.closest(HOLDS_TEXT)
  return field !== null && !field.hasAttribute('data-kept')
}

/** Keys as shown beside a command. */
export function shownKeys(keys: string): string {
  return keys.replaceAll('+', ' ').replace('ArrowUp', '↑').replace('ArrowDown', '↓').replace('  ', ' +')
}
