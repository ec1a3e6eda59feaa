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

/** Keys as shown beside a command. */
export function shownKeys(keys: string): string {
  return keys.replaceAll('+', ' ').replace('ArrowUp', '↑').replace('ArrowDown', '↓').replace('  ', ' +')
}
