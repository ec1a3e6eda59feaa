import { computed } from 'vue'
import { useTheme } from '~/composables/view/useTheme'
import { stripColours } from '~/timeline/stripColours'

/** The page's colours for canvases, which know no CSS. */
export function useInkColours() {
  const { night } = useTheme()
  const colours = computed(() => {
    // Read for its effect: the style sheet's values change with it.
    const dark = night.value
    const style = getComputedStyle(document.documentElement)
    const of = (name: string) => style.getPropertyValue(name).trim()
    return {
      night: dark,
      ...stripColours(dark),
      font: of('--sans') || 'sans-serif',
      mono: of('--mono') || 'monospace',
      serif: of('--serif') || 'serif',
    }
  })
  return { colours }
}
