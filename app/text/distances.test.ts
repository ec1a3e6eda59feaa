import { describe, expect, it } from 'vitest'
import { readDistance } from './distances'

const facts = { lensDepth: -1.4, outputWidthPx: 1920, subject: { name: 'Tilda', distance: 2 } }
const read = (text: string, from = 3) => {
  const told = readDistance(text, facts)
  return told.ok ? Number(told.of(from).toFixed(9)) : told.why
}

describe('a distance that is typed', () => {
  it.each([
    ['2.4', 2.4],
    [' 2,4 fw ', 2.4],
    ['.5', 0.5],
    ['960 px', 0.5],
    ['1.5x', 3],
    ['0.5 ×', 1],
    ['2 times', 4],
    ['+0.2', 3.2],
    ['−0.2', 2.8],
    ['-96px', 2.95],
    ['+10 %', 3.3],
    ['-50%', 1.5],
    ['@ 0.5', 1.9],
    ['@-0.4fw', 1],
    ['at 192 px', 1.5],
  ])('%s', (text, distance) => expect(read(text)).toBe(distance))

  it.each([
    ['', 'Type a distance from the lens.'],
    ['far', '“far” is no distance.'],
    ['1 m', '“1 m” is no distance.'],
    ['+1.5x', 'Times are told without a sign: 1.5 x.'],
    ['50 %', 'A percentage is by how much: +10 % or −10 %.'],
    ['1e3', '“1e3” is no distance.'],
  ])('“%s” is refused', (text, why) => expect(read(text)).toBe(why))
})
