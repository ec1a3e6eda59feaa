import { computed } from 'vue'
import { useTheme } from '~/composables/useTheme'

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
      paper: dark ? '#26241f' : '#f3efe6',
      sheet: dark ? '#2d2a25' : '#fcfaf5',
      panel: '#ffffff',
      onPanel: '#27241e',
      wrongOnPanel: '#a83a25',
      ink: dark ? '#efe9dc' : '#27241e',
      quiet: dark ? '#b3ab9a' : '#6b6455',
      faint: dark ? '#454037' : '#d9d1bf',
      rule: dark ? '#4a453b' : '#cdc5b3',
      blue: dark ? '#74aed6' : '#2a6a99',
      vermilion: dark ? '#e2694f' : '#c2452d',
      ochre: dark ? '#d7a044' : '#b27b1b',
      sea: dark ? '#5fb39f' : '#2e7a68',
      plum: dark ? '#c08fb8' : '#77476f',
      beads: ['#8fb8d2', '#6b9fc2', '#4786b0', '#2a6a99', '#1c4a6c'],
      ribbon: dark ? '#3f6582' : '#a9c4d6',
      font: of('--sans') || 'sans-serif',
      mono: of('--mono') || 'monospace',
      serif: of('--serif') || 'serif',
    }
  })
  return { colours }
}
