import { EMPTY_OUTLINE, type Outline } from '@rubato/core/document'
import { planConform } from '@rubato/core/edits'
import { createFilmStage, cutListOf, type CutList, type CutPicture } from '@rubato/core/stage'
import { describe, expect, it } from 'vitest'
import { layCuts } from '~/canvas/drawCuts'
import { kindOfLine, lineSubject, lineWords } from './conform'

const shot = (label: string, title = '') => ({ id: `s${label}`, sequenceId: 'q', order: `a${label}`, label, title, circledTakeId: `t${label}` })
const outline = {
  ...EMPTY_OUTLINE,
  project: { p: { id: 'p', title: 'Salt', rate: { numerator: 24, denominator: 1 } } },
  sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
  shots: Object.fromEntries([shot('10', 'Harbour'), shot('20'), shot('30')].map((each) => [each.id, each])),
  lanes: { v: { id: 'v', order: 'a0', name: 'Voices', kind: 'voices', gainDb: 0, muted: false, soloed: false } },
  clips: { c: { id: 'c', laneId: 'v', shotId: 's20', offsetFrames: 0, assetHash: 'a', name: 'A line', sourceSeconds: 9, fromSeconds: 0, lengthSeconds: 1, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null } },
} as unknown as Outline
const stage = createFilmStage(outline, () => 48)
const list = cutListOf(outline, stage)
const planOf = (more: Partial<CutList>) => planConform(outline, stage, { ...list, ...more })
const told = (more: Partial<CutList>) => {
  const plan = planOf(more)
  return plan.lines.map((line) => `${kindOfLine(line)}: ${lineSubject(line, plan, outline)}: ${lineWords(line, plan, outline)}`)
}
const [a, b, c] = list.pictures as [CutPicture, CutPicture, CutPicture]

describe('a line of a conform', () => {
  it('says what would happen, and to what', () => {
    expect(told({ pictures: [a, { ...b, sourceFrame: b.sourceZero! + 5, lengthFrames: 40 }, c], sounds: [] })).toEqual(['shorter: 20: 5 frames fewer at its head, 3 frames fewer at its tail: lasts 40 frames'])
    expect(told({ pictures: [a, b, { ...c, lengthFrames: 49 }] })).toEqual(['longer: 30: 1 frame more at its tail: lasts 49 frames'])
    expect(told({ pictures: [c, a, b] }).slice(0, 1)).toEqual(['moved: 30: goes to the film’s beginning'])
    expect(told({ pictures: [b, c, a], sounds: [] })).toEqual(['moved: 10: goes after 30'])
    expect(told({ pictures: [a, c], sounds: [] })).toEqual(['dropped: 20: is not in the cut any more: into the tray, as it is'])
    const fresh: CutPicture = { kind: 'shot', shotId: null, label: 'Storm', title: '', lengthFrames: 12, sourceFrame: null, sourceZero: null, panels: [] }
    expect(told({ pictures: [a, fresh, b, c], sounds: [] })).toEqual(['new: Storm: new at 00:00:02:00, 12 frames: an empty shot after 10'])
    expect(told({ pictures: [a, b, c, a], sounds: [] })).toEqual(['new: 10: seen once more at 00:00:06:00: a copy after 30'])
    expect(told({ transitions: [{ into: 1, kind: 'dissolve', before: 6, after: 6 }] })).toEqual(['transition: 20: dissolve into 20, 12 frames'])
    expect(told({ sounds: list.sounds.map((sound) => ({ ...sound, atFrame: sound.atFrame - 3.5, lengthSeconds: 0.5 })) })).toEqual(['sound: A line: 3.5 frames sooner in its shot, lasts 0.50 s'])
    expect(told({ marks: [{ markId: null, frame: 50, name: 'bell', meaning: 'sound' }] })).toEqual(['mark: Mark: “bell” at 00:00:02:02'])
  })

  it('stands in the picture of both strips: what stays is tied to itself, what is new to nothing', () => {
    const plan = planOf({ pictures: [b, { ...a, lengthFrames: 20 }, { ...c, shotId: null, label: 'New' }], sounds: [] })
    const { blocks, ties, lengthFrames } = layCuts(stage.shots, plan)
    expect(lengthFrames).toBe(144)
    expect(blocks.map(({ row, label, tone }) => `${row} ${label} ${tone}`)).toEqual(['now 10 shorter', 'now 20 moved', 'now 30 dropped', 'then 20 moved', 'then 10 shorter', 'then New new'])
    expect(ties.map(({ now, then }) => [now.label, now.from, then.from])).toEqual([['20', 48, 0], ['10', 0, 48]])
    expect(blocks.find(({ label }) => label === 'New')!.lines).toEqual(['new:2'])
  })
})
