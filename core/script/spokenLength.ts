import { framesPerSecond, type Rate } from '../time/rate'

/** Words a minute: slow narration to a quarrel. */
export const SPEAKING_RATE_RANGE = Object.freeze({ min: 60, max: 300 })
export const USUAL_SPEAKING_RATE = 150
/** The breath before the next panel. */
const PAUSE_SECONDS = 0.5

/** Words as a reader counts them: runs of letters or digits, hyphens and apostrophes inside; each sign of a script without spaces. */
export function countWords(text: string): number {
  return text.match(/[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]|[\p{L}\p{N}]+(?:[’'-][\p{L}\p{N}]+)*/gu)?.length ?? 0
}

/** Frames that saying the words takes at `wordsAMinute`, with a breath after; 0 for no words. */
export function spokenFrames(text: string, wordsAMinute: number, rate: Rate): number {
  const words = countWords(text)
  return words === 0 ? 0 : Math.ceil(((words * 60) / wordsAMinute + PAUSE_SECONDS) * framesPerSecond(rate))
}
