export { frameAtSeconds, framesPerSecond, isKnownRate, rateName, RATES, secondsOfFrames, timecodeBase } from './rate'
export type { Rate } from './rate'
export { canDropFrames, frameOfTimecode, timecodeOfFrame } from './timecode'
export { framesOfEntry } from './frameEntry'
