import { describe, expect, it } from 'vitest'
import { artAround } from './artAround'

describe('whose art is wanted', () => {
  it('is the shot itself first, then its neighbours', () => {
    expect(artAround(5, null)).toEqual([5, 6, 4, 7])
    expect(artAround(5, 5)).toEqual([5, 6, 4, 7])
  })

  it('lies ahead of one who steps on, either way', () => {
    expect(artAround(5, 4)).toEqual([5, 6, 4, 7, 8])
    expect(artAround(5, 6)).toEqual([5, 4, 6, 3, 2])
    expect(artAround(5, 900)).toEqual([5, 4, 6, 3, 2])
  })
})
