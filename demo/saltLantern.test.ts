import { drawingProblems, drawingSchema, drawingsWith, outlineProblems, outlineSchema, setBodySchema, setDrawings, setProblems, setsIn, takeBodySchema, takeLengthFrames, takeProblems, tryBodySchema, unfolded } from '@rubato/core/document'
import { takesOfShot } from '@rubato/core/edits'
import { project } from '@rubato/core/camera'
import { createTakeStage, opticsOf } from '@rubato/core/stage'
import { describe, expect, it } from 'vitest'
import { demoRecordings } from './recordings'
import { buildSaltLantern } from './saltLantern'

const film = buildSaltLantern(demoRecordings())

describe('Salt Lantern', () => {
  it('is the same every time', () => {
    expect(JSON.stringify(buildSaltLantern(demoRecordings()))).toBe(JSON.stringify(film))
  })

  it('is a sound document', () => {
    expect(outlineSchema.safeParse(film.outline).success).toBe(true)
    expect(outlineProblems(film.outline)).toEqual([])
    for (const take of Object.values(film.takes)) {
      expect(takeBodySchema.safeParse(take).error?.issues ?? []).toEqual([])
      expect(takeProblems(take)).toEqual([])
      for (const id of drawingsWith(take)) expect(film.drawings[id]).toBeDefined()
    }
    for (const drawing of Object.values(film.drawings)) {
      expect(drawingSchema.safeParse(drawing).error?.issues ?? []).toEqual([])
      expect(drawingProblems(drawing)).toEqual([])
    }
  })

  it('has five shots of twelve panels, and at least seven levels in shot 040', () => {
    expect(Object.values(film.outline.shots).map((shot) => shot.label)).toEqual(['030', '040', '050', '060', '070'])
    expect(Object.values(film.outline.shots).reduce((sum, shot) => sum + Object.keys(film.takes[shot.circledTakeId]!.panels).length, 0)).toBe(12)
    expect(Object.keys(film.takes['take-040-a']!.levels).length).toBeGreaterThanOrEqual(7)
    expect(takeLengthFrames(film.takes['take-040-a']!)).toBe(204)
  })

  it('stands in one set in three shots, seen from as many cameras', () => {
    const boardwalk = film.sets!.boardwalk!
    expect(setBodySchema.safeParse(boardwalk).error?.issues ?? []).toEqual([])
    expect(setProblems(boardwalk)).toEqual([])
    for (const id of setDrawings(boardwalk)) expect(film.drawings[id]).toBeDefined()
    const shots = Object.values(film.outline.shots).filter(({ circledTakeId }) => setsIn(film.takes[circledTakeId]!).some(({ setId }) => setId === 'boardwalk'))
    expect(shots.map(({ label }) => label)).toEqual(['040', '050', '070'])
    const optics = opticsOf(Object.values(film.outline.project)[0]!)
    for (const { circledTakeId } of shots) {
      const seen = createTakeStage(unfolded(film.takes[circledTakeId]!, () => boardwalk), optics).at(0).levels.map(({ drawingId }) => drawingId)
      for (const id of setDrawings(boardwalk)) expect(seen).toContain(id)
    }
  })

  it('has a clip in every lane, lines of the script among them, and a dissolve to dawn', () => {
    const { clips, lanes, transitions, passages } = film.outline
    expect(Object.keys(lanes).every((id) => Object.values(clips).some((clip) => clip.laneId === id))).toBe(true)
    const lines = Object.values(clips).filter((clip) => clip.line !== '')
    expect(lines.map((clip) => passages[clip.passageId!]?.speaker).sort()).toEqual(['OSKAR', 'OSKAR', 'TILDA', 'TILDA', 'TILDA'])
    expect(Object.values(transitions)).toMatchObject([{ id: 'shot-050', kind: 'dissolve' }])
    expect(buildSaltLantern().outline.clips).toEqual({})
  })

  it('follows Tilda late and with room ahead, holds a camera by hand, and cuts between two by who speaks', () => {
    const stage = createTakeStage(film.takes['take-040-a']!, opticsOf(Object.values(film.outline.project)[0]!))
    const seen = (frame: number) => project(stage.at(frame).lens, stage.seen(frame).standOf('tilda').place).u
    // She is off before the camera is, and is kept back from where she goes.
    expect(seen(28)).toBeGreaterThan(seen(10) + 0.05)
    expect(seen(80)).toBeLessThan(-0.03)
    expect(stage.workOf('camera-a')!.spans.map(({ span }) => span.kind)).toEqual(['follow'])
    const night = createTakeStage(film.takes['take-060-a']!, opticsOf(Object.values(film.outline.project)[0]!))
    expect(night.live.spans.map(({ from, cameraId }) => [from, cameraId])).toEqual([[0, 'camera-a'], [66, 'camera-b'], [114, 'camera-a']])
    expect(night.live.dissolves).toHaveLength(1)
    expect(Object.values(film.takes['take-050-a']!.spans)[0]!.kind).toBe('hand')
  })

  it('has a second take of shot 030, worked by hand: few framings, and the try that they are from', () => {
    const [a, b] = takesOfShot(film.outline, 'shot-030')
    expect([a!.letter, b!.letter, b!.name, film.outline.shots['shot-030']!.circledTakeId]).toEqual(['A', 'B', 'by hand', a!.id])
    const take = film.takes[b!.id]!
    const [tried] = Object.values(take.tries)
    expect(tried).toMatchObject({ number: 1, lastFrame: 87 })
    expect(tryBodySchema.safeParse(film.tries![tried!.samplesId]).success).toBe(true)
    expect(Object.keys(take.framings).length).toBeLessThan(9)
    const stage = createTakeStage(take, opticsOf(Object.values(film.outline.project)[0]!))
    expect(stage.at(87).pose.depth - stage.at(0).pose.depth).toBeCloseTo(0.34, 1)
  })

  it('travels along the boardwalk and pushes in', () => {
    const project = Object.values(film.outline.project)[0]!
    const stage = createTakeStage(film.takes['take-040-a']!, opticsOf(project))
    expect(stage.at(60).pose.x).toBeGreaterThan(stage.at(8).pose.x)
    expect(stage.at(190).pose.depth).toBeGreaterThan(stage.at(100).pose.depth + 0.3)
  })
})
