import type { StripInk } from './stripInk'

/** The strip's colours by day and by night. */
export function stripColours(night: boolean): Omit<StripInk, 'font' | 'mono' | 'serif'> {
  return {
    paper: night ? '#26241f' : '#f3efe6',
    sheet: night ? '#2d2a25' : '#fcfaf5',
    panel: '#ffffff',
    onPanel: '#27241e',
    wrongOnPanel: '#8f2c19',
    ink: night ? '#efe9dc' : '#27241e',
    quiet: night ? '#b3ab9a' : '#6b6455',
    faint: night ? '#454037' : '#d9d1bf',
    rule: night ? '#4a453b' : '#cdc5b3',
    blue: night ? '#74aed6' : '#2a6a99',
    vermilion: night ? '#e2694f' : '#c2452d',
    ochre: night ? '#d7a044' : '#b27b1b',
    sea: night ? '#5fb39f' : '#2e7a68',
    plum: night ? '#c08fb8' : '#77476f',
    beads: ['#8fb8d2', '#6b9fc2', '#4786b0', '#2a6a99', '#1c4a6c'],
    ribbon: night ? '#3f6582' : '#a9c4d6',
  }
}
