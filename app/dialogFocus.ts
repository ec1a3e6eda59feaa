import type { VNode } from 'vue'

const FIELDS = 'input:not([type="hidden"]):not([disabled]), textarea:not([disabled]), select:not([disabled])'
const BUTTONS = 'button.strong:not([disabled]), button:not([disabled])'

/**
 * What dialogs of the library are given everywhere: the focus begins on the first field, or on the first button where
 * there is none, and not on the one that closes it. The library looks for `autofocus` when it has opened.
 */
export default {
  dialog: {
    content: {
      onVnodeMounted(vnode: VNode) {
        const content = vnode.el as HTMLElement
        if (content.querySelector('[autofocus]') !== null) return
        const first = content.querySelector<HTMLElement>(FIELDS) ?? content.querySelector<HTMLElement>(BUTTONS)
        first?.setAttribute('autofocus', '')
      },
    },
  },
}
