import type { VNode } from 'vue'

const FIELDS = 'input:not([type="hidden"]):not([disabled]), textarea:not([disabled]), select:not([disabled])'
const BUTTONS = 'button.strong:not([disabled]), button:not([disabled])'

/** Where each open dialog's focus began. */
const begun = new WeakMap<Element, HTMLElement>()
const firstIn = (content: HTMLElement) => content.querySelector<HTMLElement>(FIELDS) ?? content.querySelector<HTMLElement>(BUTTONS)

/**
 * What dialogs of the library are given everywhere: the focus begins on the first field, or on the first button where
 * there is none, and not on the one that closes it. The library looks for `autofocus` when it has opened. Where that is
 * gone because something else is shown by now, it begins anew there.
 */
export default {
  dialog: {
    content: {
      onVnodeMounted({ el }: VNode) {
        const content = el as HTMLElement
        const first = content.querySelector<HTMLElement>('[autofocus]') ?? firstIn(content)
        if (first === null) return
        first.setAttribute('autofocus', '')
        begun.set(content, first)
      },
      onVnodeUpdated({ el }: VNode) {
        const content = el as HTMLElement
        if (begun.get(content)?.isConnected !== false) return
        const first = firstIn(content)
        if (first === null) return
        begun.set(content, first)
        // It may not have opened yet, or have opened already.
        first.setAttribute('autofocus', '')
        if (!content.contains(document.activeElement)) first.focus()
      },
    },
  },
}
