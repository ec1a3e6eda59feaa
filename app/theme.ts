import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const paper = {
  0: '#ffffff',
  50: '#fcfaf5',
  100: '#f3efe6',
  200: '#e7e1d3',
  300: '#d9d1bf',
  400: '#cdc5b3',
  500: '#968e7c',
  600: '#6b6455',
  700: '#4d483d',
  800: '#35322a',
  900: '#27241e',
  950: '#1a1814',
}

const night = {
  0: '#efe9dc',
  50: '#d9d1bf',
  100: '#b3ab9a',
  200: '#968e7c',
  300: '#857d6c',
  400: '#6b6455',
  500: '#5a5447',
  600: '#4a453b',
  700: '#3d392f',
  800: '#2d2a25',
  900: '#26241f',
  950: '#1f1d19',
}

const blue = {
  50: '#eef4f8',
  100: '#dfeaf1',
  200: '#bcd4e3',
  300: '#92b9d1',
  400: '#5b93ba',
  500: '#2a6a99',
  600: '#235a83',
  700: '#1c4a6c',
  800: '#163b57',
  900: '#112d43',
  950: '#0b1e2d',
}

/** Paper and ink over PrimeVue's base; `.night` turns the lamp down. */
export const rubatoTheme = definePreset(Aura, {
  semantic: {
    primary: blue,
    focusRing: { width: '2px', style: 'solid', color: '{primary.color}', offset: '1px' },
    colorScheme: {
      light: {
        surface: paper,
        primary: { color: '#27241e', contrastColor: '#fcfaf5', hoverColor: '#35322a', activeColor: '#4d483d' },
        highlight: { background: '#e7e1d3', focusBackground: '#d9d1bf', color: '#27241e', focusColor: '#27241e' },
        text: { color: '#27241e', hoverColor: '#27241e', mutedColor: '#6b6455', hoverMutedColor: '#4d483d' },
        overlay: { modal: { background: '#fcfaf5' }, select: { background: '#fcfaf5' }, popover: { background: '#fcfaf5' } },
      },
      dark: {
        surface: night,
        primary: { color: '#efe9dc', contrastColor: '#26241f', hoverColor: '#d9d1bf', activeColor: '#b3ab9a' },
        highlight: { background: '#34312a', focusBackground: '#454037', color: '#efe9dc', focusColor: '#efe9dc' },
        text: { color: '#efe9dc', hoverColor: '#ffffff', mutedColor: '#b3ab9a', hoverMutedColor: '#d9d1bf' },
        overlay: { modal: { background: '#26241f' }, select: { background: '#26241f' }, popover: { background: '#26241f' } },
      },
    },
  },
})
