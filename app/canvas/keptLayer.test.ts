import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createKeptLayer } from './keptLayer'

/** A canvas that only tells how large it was made and what was put on it. */
function fakeContext() {
  const put: unknown[][] = []
  return { put, context: { drawImage: (...all: unknown[]) => put.push(all), setTransform: (...all: unknown[]) => put.push(['transform', ...all]) } as unknown as CanvasRenderingContext2D & { put: unknown[][] } }
}

describe('a layer that is kept', () => {
  const aside = fakeContext()
  beforeEach(() => {
    aside.put.length = 0
    vi.stubGlobal('document', { createElement: () => ({ width: 0, height: 0, getContext: () => aside.context }) })
  })
  afterEach(() => vi.unstubAllGlobals())

  it('is drawn again only when what it is made of, or its size, has changed', () => {
    const layer = createKeptLayer()
    const draw = vi.fn()
    const { context, put } = fakeContext()
    const [bars, beads] = [[1], [2]]
    layer(context, { width: 100, height: 40, ratio: 1 }, [bars, beads], draw)
    layer(context, { width: 100, height: 40, ratio: 1 }, [bars, beads], draw)
    expect([draw.mock.calls.length, put.length]).toEqual([1, 2])
    layer(context, { width: 100, height: 40, ratio: 1 }, [bars, [2]], draw)
    expect(draw).toHaveBeenCalledTimes(2)
    layer(context, { width: 120, height: 40, ratio: 1 }, [bars, [2]], draw)
    expect(draw).toHaveBeenCalledTimes(3)
  })

  it('is as fine as the screen, and put where it is wanted in CSS px', () => {
    const layer = createKeptLayer()
    const { context, put } = fakeContext()
    layer(context, { width: 100, height: 40, ratio: 2, top: 12 }, [], () => undefined)
    expect(put[0]!.slice(1)).toEqual([0, 12, 100, 40])
    expect(put[0]![0]).toMatchObject({ width: 200, height: 80 })
    // What is drawn is given in the pane's own place.
    expect(aside.put[0]).toEqual(['transform', 2, 0, 0, 2, 0, -24])
  })

  it('of no size is left out', () => {
    const draw = vi.fn()
    const { context, put } = fakeContext()
    createKeptLayer()(context, { width: 0, height: 40, ratio: 1 }, [], draw)
    expect([draw.mock.calls.length, put.length]).toEqual([0, 0])
  })
})
