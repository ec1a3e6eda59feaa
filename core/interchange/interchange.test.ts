import { describe, expect, it } from 'vitest'
import { readFountain } from '../script'
import { cuesOf, readStack, writeBoardedScript, writeSrt, writeVtt } from './index'

const RATE = { numerator: 24000, denominator: 1001 }

describe('dialogue as subtitles', () => {
  const panels = [
    { startFrame: 0, lengthFrames: 24, dialogue: '' },
    { startFrame: 24, lengthFrames: 48, dialogue: 'OSKAR: Mind the lamp.' },
    { startFrame: 72, lengthFrames: 24, dialogue: 'OSKAR: Mind the lamp.' },
    { startFrame: 96, lengthFrames: 24, dialogue: 'TILDA (calls): Oil & <light>!\nOSKAR: No.' },
  ]

  it('stands at its real times; what goes on over panels is one', () => {
    // Frame 24 of 24000/1001 begins at 1.001 s, frame 96 at 4.004 s, frame 120 at 5.005 s.
    expect(writeSrt(cuesOf(panels), RATE)).toBe('1\n00:00:01,001 --> 00:00:04,004\nMind the lamp.\n\n2\n00:00:04,004 --> 00:00:05,005\n- TILDA: Oil & <light>!\n- OSKAR: No.\n')
  })

  it('names the voices in WebVTT and hides its signs', () => {
    expect(writeVtt(cuesOf(panels), RATE)).toBe('WEBVTT\n\n1\n00:00:01.001 --> 00:00:04.004\n<v OSKAR>Mind the lamp.</v>\n\n2\n00:00:04.004 --> 00:00:05.005\n<v TILDA>Oil &amp; &lt;light&gt;!</v>\n<v OSKAR>No.</v>\n')
    expect(writeVtt([], RATE)).toBe('WEBVTT\n')
  })

  it('passes an hour', () => {
    expect(writeSrt(cuesOf([{ startFrame: 90_000 * 24, lengthFrames: 24, dialogue: 'A: b' }]), { numerator: 24, denominator: 1 })).toContain('25:00:00,000 --> 25:00:01,000')
  })
})

describe('the boards as a screenplay', () => {
  it('can be read again', () => {
    const text = writeBoardedScript('Salt Lantern', [
      { sequence: { title: 'Boardwalk', label: '02' }, heading: 'EXT. SALT MARSH - DUSK', shots: [{ label: '030', panels: [{ action: 'Dusk.', dialogue: '' }, { action: 'Oskar looks up.', dialogue: 'OSKAR: Mind the lamp.' }] }] },
      { sequence: { title: 'Kite', label: '04' }, heading: null, shots: [] },
    ])
    expect(readFountain(text).passages.map(({ kind, speaker, text: words }) => [kind, speaker, words])).toEqual([
      ['title', '', 'Title: Salt Lantern'],
      ['scene', '', 'EXT. SALT MARSH - DUSK'],
      ['note', '', 'Shot 030'],
      ['action', '', 'Dusk.'],
      ['action', '', 'Oskar looks up.'],
      ['dialogue', 'OSKAR', 'Mind the lamp.'],
    ])
  })
})

describe('an OpenRaster stack', () => {
  it('opens groups up and keeps names, places, opacity and what is hidden', () => {
    const read = readStack(`<?xml version="1.0"?><image w="2000" h="1200" version="0.0.6"><stack>
      <layer name="Ink" src="data/1.png" x="10" y="20" opacity="0.5"/>
      <stack name="Set" x="5" y="5" opacity="0.5" visibility="hidden"><layer name="Ink" src="data/2.png" opacity="0.5" composite-op="svg:multiply"/></stack>
      <layer src="data/3.png"/></stack></image>`)
    expect(read).toMatchObject({
      ok: true,
      stack: {
        widthPx: 2000,
        heightPx: 1200,
        layers: [
          { name: 'Ink', src: 'data/1.png', x: 10, y: 20, opacity: 0.5, visible: true, mixing: null },
          { name: 'Ink 2', src: 'data/2.png', x: 5, y: 5, opacity: 0.25, visible: false, mixing: 'svg:multiply' },
          { name: 'Layer 1', src: 'data/3.png', x: 0, y: 0, opacity: 1, visible: true, mixing: null },
        ],
      },
    })
  })

  it.each([['nothing', ''], ['no size', '<image><stack/></image>'], ['not closed', '<image w="9" h="9"><stack>'], ['entities', '<!DOCTYPE a [<!ENTITY b "c">]><image w="9" h="9"><stack/></image>']])('with %s is refused', (_, xml) => {
    expect(readStack(xml)).toMatchObject({ ok: false, refusal: { code: 'not-a-stack' } })
  })
})
