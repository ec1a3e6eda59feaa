import { describe, expect, it } from 'vitest'
import { machineTaken } from './machineTaken.mjs'

const stat = (idle: number, steal: number) => `cpu  100 0 50 ${idle} 0 0 0 ${steal} 7 7\ncpu0 1 2 3\n`

describe('what the host takes of a machine', () => {
  it('is told as a part of all time since it was asked before', () => {
    const texts = [stat(1000, 0), stat(1060, 40), stat(1160, 40), stat(1160, 40)]
    const taken = machineTaken(() => texts.shift()!)
    expect([taken(), taken(), taken()]).toEqual([0.4, 0, 0])
  })

  it('is nothing where the system does not tell', () => {
    for (const text of ['', 'cpu 1 2', 'cpu a b c d e f g h']) expect(machineTaken(() => text)()).toBe(0)
    expect(machineTaken()()).toBeGreaterThanOrEqual(0)
  })
})
