import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createLayerFiles, packLayers, unpackLayers, type PackedLayer } from './frameLayers'

const layer = (id: string, name: string, fields: Partial<PackedLayer> = {}): PackedLayer => ({ id, name, kind: 'level', order: 0, depthFw: 2, opacity: 1, isCut: false, box: { left: 0, top: 0, width: 4, height: 3 }, png: new Uint8Array([1, 2, 3]), ...fields })
const OF = { film: 'F', shot: '010', rate: { numerator: 24, denominator: 1 }, widthPx: 4, heightPx: 3, firstFrame: -2 }

describe('layers of a frame', () => {
  it('are the same when they are unpacked', () => {
    const any = fc.array(fc.record({ id: fc.string(), name: fc.string(), order: fc.nat(20), depthFw: fc.double({ noNaN: true, noDefaultInfinity: true }), png: fc.uint8Array({ maxLength: 40 }) }), { maxLength: 6 })
    fc.assert(
      fc.property(any, (list) => {
        const layers = list.map(({ id, name, ...rest }) => layer(id, name, rest))
        const again = unpackLayers(packLayers(layers)).map((each) => ({ ...each, png: new Uint8Array(each.png) }))
        expect(JSON.stringify(again)).toBe(JSON.stringify(layers))
      }),
    )
  })

  it('that are cut short are refused, wherever', () => {
    const whole = packLayers([layer('a', 'House'), layer('b', 'Sky')])
    for (let length = 0; length < whole.length; length++) expect(() => unpackLayers(whole.slice(0, length))).toThrow()
  })

  it('are numbered in a folder a level, no two of one name, held where nothing changes', () => {
    const files = createLayerFiles(OF, 3)
    const first = files.next(packLayers([layer('a', 'House / left'), layer('b', 'house-left'), layer('b', 'house-left', { kind: 'shadow' }), layer('c', '../..')]))
    expect(first.map(({ name }) => name)).toEqual(['House-left/House-left_0000.png', 'house-left-2/house-left-2_0000.png', 'house-left-shadow/house-left-shadow_0000.png', '-../-.._0000.png'])
    expect(files.next(null).map(({ name }) => name)[0]).toBe('House-left/House-left_0001.png')
    expect(files.next(packLayers([layer('b', 'house-left')])).map(({ name }) => name)).toEqual(['house-left-2/house-left-2_0002.png'])
    const table = JSON.parse(files.table()) as { shot: string; frames: { frame: number; layers: { file: string; depthFw: number }[] }[] }
    expect([table.shot, table.frames.map(({ frame }) => frame), table.frames[1]!.layers.length]).toEqual(['010', [-2, -1, 0], 4])
    expect(table.frames[2]!.layers[0]).toMatchObject({ file: 'house-left-2/house-left-2_0002.png', depthFw: 2 })
  })
})
