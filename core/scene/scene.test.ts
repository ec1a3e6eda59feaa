import { deflateSync } from 'node:zlib'
import { Matrix4, PerspectiveCamera, Quaternion, Vector3 } from 'three'
import fc from 'fast-check'
import { Document, WebIO } from '@gltf-transform/core'
import { describe, expect, it } from 'vitest'
import { validateBytes } from 'gltf-validator'
import { lensOf, project } from '../camera'
import { pointOnPlane } from '../depth'
import { cellAt, EMPTY_OUTLINE, freeze, takeProblems, type Film, type TakeBody } from '../document'
import { done, level, newId, OPTICS, REST, sampleTake, T } from '../edits/testing'
import { applyChange, cutTo, keyFraming, keyLevel } from '../edits'
import { createTakeStage, type TakeStage } from '../stage'
import { bringScene, framesOfScene, readScene, writeScene, type OpenedScene, type SceneAsk, type SceneWishes } from '.'
import { openGlb } from './glb'
import { sparse, straight } from './tracks'

/** A picture of so many px, grey. */
function png(width: number, height: number): Uint8Array {
  const crcTable = Array.from({ length: 256 }, (_, n) => Array.from({ length: 8 }).reduce<number>((c) => (c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1), n) >>> 0)
  const crc = (bytes: Uint8Array) => (bytes.reduce((c, byte) => crcTable[(c ^ byte) & 0xff]! ^ (c >>> 8), 0xffffffff) ^ 0xffffffff) >>> 0
  const chunk = (type: string, data: Uint8Array) => {
    const body = new Uint8Array([...new TextEncoder().encode(type), ...data])
    const made = new Uint8Array(8 + data.length + 4)
    new DataView(made.buffer).setUint32(0, data.length)
    made.set(body, 4)
    new DataView(made.buffer).setUint32(8 + data.length, crc(body))
    return made
  }
  const head = new Uint8Array(13)
  new DataView(head.buffer).setUint32(0, width)
  new DataView(head.buffer).setUint32(4, height)
  head.set([8, 0, 0, 0, 0], 8)
  return new Uint8Array([137, 80, 78, 71, 13, 10, 26, 10, ...chunk('IHDR', head), ...chunk('IDAT', deflateSync(new Uint8Array((width + 1) * height))), ...chunk('IEND', new Uint8Array())])
}

const BOX = { left: -0.5, right: 0.25, bottom: -0.25, top: 0.5 }
const ask = (stage: TakeStage, metresPerFw: number | null = 2): SceneAsk => ({ title: 'Salt 040', rate: { numerator: 24000, denominator: 1001 }, stage, metresPerFw, pictures: new Map([...new Set(Object.values(stage.take.cells).flatMap(({ drawingId }) => drawingId ?? []))].map((id) => [id, { png: png(7, 5), box: BOX }])) })

/** Two cameras, one of which zooms; a figure that walks, turns and grows, carried by what moves; a sky turned away; a lens-facing reed. */
function sample(): TakeBody {
  let take: TakeBody = { ...sampleTake(), levels: { tilda: level('tilda', 1, 0, { pivot: { x: 0.1, y: -0.2 } }), sky: level('sky', 2, 6, { panDegrees: 30, tiltDegrees: -10, scale: 4 }), reed: level('reed', 3, -0.3, { facing: 'lens', x: 0.4, repeat: { count: 3, seed: 4, about: { x: 0, y: 0 }, lay: { kind: 'step', x: 0.3, y: 0 }, depth: 0.2, rollDegrees: 5, size: 1.1, scatter: { x: 0, y: 0, depth: 0, rollDegrees: 0, size: 0, mirrored: 0 }, stagger: 0 } } as never) } }
  take = { ...take, cells: { ...take.cells, r: cellAt('reed', 'p1', 0, 'd-reed') }, cameras: { ...take.cameras, b: { id: 'b', order: 'a2', letter: 'B', locked: false } } }
  const { r, ...cells } = take.cells
  take = freeze({ ...take, cells: { ...cells, [r!.id]: r! } })
  take = done(take, keyFraming(take, T, 'a', 0, { ...REST, x: -0.3 }, 'f1'))
  take = done(take, keyFraming(take, T, 'a', 50, { ...REST, x: 0.6, y: 0.1, depth: REST.depth + 0.4, panDegrees: 12, tiltDegrees: -5, rollDegrees: 8 }, 'f2'))
  take = done(take, keyFraming(take, T, 'b', 0, REST, 'f3'))
  take = done(take, keyFraming(take, T, 'b', 71, { ...REST, focalLengthMm: 85, panDegrees: -6 }, 'f4'))
  take = done(take, keyLevel(take, T, 'tilda', 0, { place: { x: 0, y: 0, depth: 0 }, size: 1 }, newId))
  take = done(take, keyLevel(take, T, 'tilda', 60, { place: { x: 0.8, y: 0.1, depth: -0.2 }, size: 1.5 }, newId))
  return done(take, cutTo(take, T, 40, 'b', newId))
}

/** A scene's numbers at a moment, worked out by another's mathematics. */
function reader(file: Uint8Array) {
  const opened = openGlb(file)
  if (typeof opened === 'string') throw new Error(opened)
  const json = opened.json as {
    nodes: { name: string; translation?: number[]; rotation?: number[]; scale?: number[]; children?: number[]; camera?: number; extras?: { rubato: Record<string, unknown> } }[]
    cameras: { perspective: { yfov: number; aspectRatio: number } }[]
    accessors: { bufferView: number; count: number; type: string }[]
    bufferViews: { byteOffset: number; byteLength: number }[]
    animations?: { samplers: { input: number; output: number; interpolation: string }[]; channels: { sampler: number; target: { node?: number; path: string; extensions?: { KHR_animation_pointer: { pointer: string } } } }[] }[]
    extensionsUsed?: string[]
    asset: { extras: { rubato: Record<string, unknown> } }
  }
  const floats = (index: number) => {
    const view = json.bufferViews[json.accessors[index]!.bufferView]!
    const bytes = opened.bin.slice(view.byteOffset, view.byteOffset + view.byteLength)
    return new Float32Array(bytes.buffer)
  }
  const at = (sampler: number, seconds: number, turns: boolean): number[] => {
    const { input, output, interpolation } = json.animations![0]!.samplers[sampler]!
    const [times, values] = [floats(input), floats(output)]
    const width = values.length / times.length
    const value = (i: number) => [...values.slice(i * width, (i + 1) * width)]
    let i = times.findLastIndex((time) => time <= seconds + 1e-6)
    if (i < 0) i = 0
    if (interpolation === 'STEP' || i === times.length - 1) return value(i)
    const share = (seconds - times[i]!) / (times[i + 1]! - times[i]!)
    if (!turns) return straight(value(i), value(i + 1), share) as number[]
    const [a, b] = [value(i), value(i + 1)].map((q) => new Quaternion(...(q as [number, number, number, number])))
    return a!.slerp(b!, share).toArray()
  }
  const channelOf = (node: number, path: string) => json.animations?.[0]?.channels.find(({ target }) => target.node === node && target.path === path)
  const partOf = (node: number, path: 'translation' | 'rotation' | 'scale', seconds: number, rest: number[]) => ((channel) => (channel === undefined ? (json.nodes[node]![path] ?? rest) : at(channel.sampler, seconds, path === 'rotation')))(channelOf(node, path))
  return {
    json,
    find: (what: Record<string, unknown>) => json.nodes.findIndex(({ extras }) => extras !== undefined && Object.entries(what).every(([name, value]) => extras.rubato[name] === value)),
    matrix(node: number, seconds: number) {
      const parts = [partOf(node, 'translation', seconds, [0, 0, 0]), partOf(node, 'rotation', seconds, [0, 0, 0, 1]), partOf(node, 'scale', seconds, [1, 1, 1])]
      return new Matrix4().compose(new Vector3(...(parts[0] as [number, number, number])), new Quaternion(...(parts[1] as [number, number, number, number])).normalize(), new Vector3(...(parts[2] as [number, number, number])))
    },
    scaleOf: (node: number, seconds: number) => partOf(node, 'scale', seconds, [1, 1, 1]),
    yfov(camera: number, seconds: number) {
      const channel = json.animations?.[0]?.channels.find(({ target }) => target.extensions?.KHR_animation_pointer.pointer === `/cameras/${camera}/perspective/yfov`)
      return channel === undefined ? json.cameras[camera]!.perspective.yfov : at(channel.sampler, seconds, false)[0]!
    },
  }
}

describe('a shot as a 3D scene', () => {
  const take = sample()
  const stage = createTakeStage(take, OPTICS)
  const file = writeScene(ask(stage))

  it('passes the format’s validator without an error or a warning', async () => {
    for (const scale of [2, null]) {
      const report = await validateBytes(writeScene(ask(stage, scale)))
      expect(report.issues.messages.filter(({ severity }: { severity: number }) => severity < 2)).toEqual([])
      expect([report.issues.numErrors, report.issues.numWarnings]).toEqual([0, 0])
    }
    const bare = createTakeStage(freeze({ ...sampleTake([1]), levels: {}, cells: {} }), OPTICS)
    expect((await validateBytes(writeScene(ask(bare)))).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
  })

  it('shows every corner of every level where the stage does, through both cameras and all lenses, at every frame', () => {
    const scene = reader(file)
    const fps = 24000 / 1001
    let seen = 0
    for (let frame = 0; frame < stage.lengthFrames; frame += 3) {
      const seconds = frame / fps
      const liveId = stage.live.at(frame)!
      for (const cameraId of ['a', 'b']) {
        const node = scene.find({ camera: cameraId })
        const camera = new PerspectiveCamera((scene.yfov(scene.json.nodes[node]!.camera!, seconds) * 180) / Math.PI, OPTICS.aspect, 0.01, 1000)
        camera.matrixWorld.copy(scene.matrix(node, seconds))
        camera.matrixWorldInverse.copy(camera.matrixWorld).invert()
        const lens = lensOf(stage.poseOf(cameraId, frame), OPTICS)
        for (const placed of stage.through(frame, liveId).levels) {
          const own = scene.find(placed.copy === 0 ? { level: placed.level.id, copy: undefined } : { level: placed.level.id, copy: placed.copy })
          const pivot = placed.level.pivot ?? { x: 0, y: 0 }
          for (const [x, y] of [[BOX.left, BOX.bottom], [BOX.right, BOX.top]] as const) {
            const wanted = project(lens, pointOnPlane(placed.plane, { x, y }))
            if (wanted.z < 0.1) continue
            const found = new Vector3((x - pivot.x) * 2, (y - pivot.y) * 2, 0).applyMatrix4(scene.matrix(own, seconds)).project(camera)
            // Of a picture 1,920 px wide to within a fiftieth of one.
            expect(Math.abs(found.x / 2 - wanted.u)).toBeLessThan(1e-5 * Math.max(1, Math.abs(wanted.u)))
            expect(Math.abs(found.y / 2 / OPTICS.aspect - wanted.v)).toBeLessThan(1e-5 * Math.max(1, Math.abs(wanted.v)))
            seen++
          }
        }
      }
    }
    expect(seen).toBeGreaterThan(300)
  })

  it('has each drawing as long as it is exposed, the scale as it is declared, and what it needs to be read again', () => {
    const scene = reader(file)
    const [first, second] = ['d-1', 'd-2'].map((drawing) => scene.find({ drawing }))
    const on = (node: number, frame: number) => scene.scaleOf(node, (frame * 1001) / 24000)[0] === 1
    expect([0, 23, 24, 71].map((frame) => [on(first!, frame), on(second!, frame)])).toEqual([[true, false], [true, false], [false, true], [false, true]])
    expect(scene.json.asset.extras.rubato).toMatchObject({ metresPerFw: 2, frames: 72, fps: [24000, 1001] })
    expect(scene.json.extensionsUsed).toEqual(['KHR_animation_pointer', 'KHR_materials_unlit'])
    const camera = scene.matrix(scene.find({ camera: 'b' }), 0)
    expect(new Vector3().setFromMatrixPosition(camera).toArray().map((value) => Number(value.toFixed(5)))).toEqual([0, 0, Number((-REST.depth * 2).toFixed(5))])
  })

  it('has no more keys than it needs: none of what stands still, two of what goes straight on', () => {
    expect(sparse(Array.from({ length: 50 }, () => [1, 2]), 1e-6, straight)).toEqual({ frames: [0], values: [[1, 2]] })
    expect(sparse(Array.from({ length: 50 }, (_, i) => [i / 7]), 1e-6, straight).frames).toEqual([0, 49])
    const bent = Array.from({ length: 50 }, (_, i) => [i < 20 ? i : 20])
    expect(sparse(bent, 1e-6, straight).frames).toEqual([0, 20, 49])
    const still = reader(writeScene(ask(createTakeStage(sampleTake(), OPTICS))))
    // Only what is exposed and what is not changes.
    expect(still.json.animations![0]!.channels.every(({ target }) => target.path === 'scale')).toBe(true)
  })
})

const RATE = { numerator: 24000, denominator: 1001 }
const opened = async (file: Uint8Array): Promise<OpenedScene> => {
  const read = await readScene(file)
  if (!read.ok) throw new Error(read.why)
  return read.scene
}
const wishes = (more: Partial<SceneWishes> = {}): SceneWishes => ({ camera: 0, into: 'a', levels: true, others: true, metresPerFw: 2, zUp: false, rate: 'time', tolerancePx: 0.5, outputWidthPx: 1920, ...more })
const filmOf = (take: TakeBody): Film => ({ outline: EMPTY_OUTLINE, takes: { [T]: take }, drawings: {} })
function brought(take: TakeBody, scene: OpenedScene, more: Partial<SceneWishes> = {}) {
  const found = bringScene(filmOf(take), T, scene, wishes(more), RATE, OPTICS, newId)
  if (!found.made.ok) throw new Error(found.made.refusal.code)
  const applied = applyChange(filmOf(take), found.made)
  if (!applied.ok) throw new Error(applied.refusal.code)
  const after = applied.value.takes[T]!
  expect(takeProblems(after)).toEqual([])
  return { ...found, take: after, stage: createTakeStage(after, OPTICS) }
}

describe('a scene that comes back', () => {
  const take = sample()
  const stage = createTakeStage(take, OPTICS)
  const file = writeScene(ask(stage))

  it('as it went out changes no level, and gives every camera again within the tolerance, in few framings', async () => {
    const scene = await opened(file)
    expect([scene.own?.frames, scene.own?.metresPerFw, scene.cameras.map(({ name }) => name), framesOfScene(scene, RATE, 'time')]).toEqual([72, 2, ['Camera A', 'Camera B'], 72])
    const bare = freeze({ ...take, framings: {} })
    for (const [camera, id] of ['a', 'b'].entries()) {
      const back = brought(bare, scene, { camera, into: id })
      expect([back.levels, back.carriers, back.boxes]).toEqual([0, 0, 0])
      expect(back.framings).toBeLessThan(16)
      expect(back.mostPx).toBeLessThanOrEqual(0.5)
      for (let frame = 0; frame < 72; frame += 5) {
        const [now, then] = [back.stage.poseOf(id, frame), stage.poseOf(id, frame)]
        expect(Math.hypot(now.x - then.x, now.y - then.y, now.depth - then.depth)).toBeLessThan(2e-3)
        expect(Math.abs(now.focalLengthMm - then.focalLengthMm)).toBeLessThan(0.1)
      }
    }
    const fresh = brought(bare, scene, { into: null })
    expect(Object.values(fresh.take.cameras).map(({ letter }) => letter).sort()).toEqual(['A', 'B', 'C'])
  })

  it('moved elsewhere moves the level, keyed as seldom as shows the same, and its carrier is heeded', async () => {
    const scene = await opened(file)
    const stood = freeze({ ...take, levelKeys: {}, levels: { ...take.levels, tilda: { ...take.levels.tilda!, carrier: { kind: 'level', levelId: 'hub', turn: true, size: true } as const }, hub: { ...level('hub', 4, 1, { x: 0.2, rollDegrees: 15, scale: 1.5 }), kind: 'carrier' as const } } } as TakeBody)
    const back = brought(stood, scene, { camera: null })
    expect([back.levels, back.framings]).toEqual([1, 0])
    for (let frame = 0; frame < 72; frame += 4) {
      const [now, then] = [back.stage.seen(frame).standOf('tilda'), stage.seen(frame).standOf('tilda')]
      expect(Math.hypot(now.place.x - then.place.x, now.place.y - then.place.y, now.place.depth - then.place.depth)).toBeLessThan(3e-3)
      expect(Math.abs(now.size - then.size)).toBeLessThan(3e-3)
    }
    expect(Object.values(back.take.levelKeys).length).toBeLessThan(30)
  })

  it('made elsewhere brings carriers with their motion and boxes for its shapes, at the scale that is asked for', async () => {
    const document = new Document()
    const buffer = document.createBuffer()
    const floats = (values: number[], type: 'SCALAR' | 'VEC3') => document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer)
    const cube = document.createMesh('House').addPrimitive(document.createPrimitive().setAttribute('POSITION', floats([-1, 0, -2, 1, 3, 2, 1, 0, 2], 'VEC3')))
    const parent = document.createNode('Ground').setTranslation([0, 0, -10])
    const house = document.createNode('House').setMesh(cube).setTranslation([4, 0, 0])
    const mover = document.createNode('Cart')
    const camera = document.createNode('Shot cam').setCamera(document.createCamera().setType('perspective').setYFov(0.5).setAspectRatio(2).setZNear(0.1)).setTranslation([0, 2, 5])
    parent.addChild(house).addChild(mover)
    const move = document.createAnimationSampler().setInterpolation('CUBICSPLINE').setInput(floats([0, 1], 'SCALAR')).setOutput(floats([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 8, 0, 0, 0, 0, 0], 'VEC3'))
    const channel = document.createAnimationChannel().setTargetNode(mover).setTargetPath('translation').setSampler(move)
    document.createAnimation().addSampler(move).addChannel(channel)
    document.createScene('Street').addChild(parent).addChild(camera)
    const scene = await opened(await new WebIO().writeBinary(document))
    expect(scene.things.map(({ name, kind, moves }) => [name, kind, moves])).toEqual([['House', 'mesh', false], ['Cart', 'empty', true]])
    const back = brought(sampleTake(), scene, { metresPerFw: 4 })
    expect([back.carriers, back.boxes, back.framings]).toEqual([1, 1, 1])
    const pose = back.stage.poseOf('a', 10)
    expect([pose.x, pose.y, pose.depth].map((value) => Number(value.toFixed(4)))).toEqual([0, 0.5, -1.25])
    // What is seen across: 2 · tan(0.25) upright, twice that across.
    expect(OPTICS.filmBackMm / (2 * pose.focalLengthMm)).toBeCloseTo(Math.tan(0.25) * 2, 5)
    const cart = Object.values(back.take.levels).find(({ name }) => name === 'Cart')!
    expect(back.stage.seen(0).standOf(cart.id).place).toMatchObject({ x: 0, y: 0, depth: 2.5 })
    // Its 8 m are 2 fw, flat at both ends: 3t² − 2t³ of them at t = 6 and 12 frames.
    for (const frame of [6, 12]) expect(back.stage.seen(frame).standOf(cart.id).place.x).toBeCloseTo(((t) => (3 * t ** 2 - 2 * t ** 3) * 2)((frame * 1001) / 24000), 2)
    expect(back.stage.seen(71).standOf(cart.id).place.x).toBeCloseTo(2, 3)
    const walls = Object.values(back.take.levels).filter(({ standIn }) => standIn === true)
    expect(walls).toHaveLength(6)
    const floor = back.stage.seen(0).standOf(walls.find(({ name }) => name === 'House floor')!.id)
    expect([floor.place.x, floor.place.y, floor.place.depth].map((value) => Number(value.toFixed(4)))).toEqual([1, 0, 2.5])
    const turned = brought(sampleTake(), scene, { zUp: true, others: false })
    expect(turned.stage.poseOf('a', 0)).toMatchObject({ y: 2.5, depth: 1 })
  })

  it('whatever is done to a file, it is read or refused in words, and never throws', async () => {
    const { json } = openGlb(file) as { json: Record<string, unknown> }
    const again = (change: (json: never) => void) => {
      const copy = JSON.parse(JSON.stringify(json)) as never
      change(copy)
      const body = new TextEncoder().encode(JSON.stringify(copy))
      const padded = Math.ceil(body.length / 4) * 4
      const { bin } = openGlb(file) as { bin: Uint8Array }
      const made = new Uint8Array(20 + padded + 8 + bin.length).fill(0x20)
      const view = new DataView(made.buffer)
      for (const [i, value] of [0x46546c67, 2, made.length, padded, 0x4e4f534a].entries()) view.setUint32(i * 4, value, true)
      made.set(body, 20)
      view.setUint32(20 + padded, bin.length, true)
      view.setUint32(24 + padded, 0x004e4942, true)
      made.set(bin, 28 + padded)
      return made
    }
    type Loose = { scenes: { nodes: number[] }[]; nodes: { children?: number[]; scale?: number[] }[]; buffers: { uri?: string }[]; accessors: { count: number; componentType?: number }[]; extensionsRequired?: string[]; asset?: { version?: string } }
    const bad: readonly (readonly [Uint8Array, string])[] = [
      [file.slice(0, 11), 'not a binary glTF'],
      [file.slice(0, file.length / 2), 'cut short'],
      [again((copy: Loose) => void (copy.nodes[0]!.children = [1], copy.nodes[1]!.children = [0])), 'circle'],
      [again((copy: Loose) => void (copy.buffers[0]!.uri = 'http://127.0.0.1/x.bin')), 'another file'],
      [again((copy: Loose) => void (copy.accessors[0]!.count = 1e12)), 'more numbers'],
      [again((copy: Loose) => void (copy.extensionsRequired = ['KHR_draco_mesh_compression'])), 'can’t be read'],
      [again((copy: Loose) => void delete copy.asset), 'which version'],
      [again((copy: Loose) => void (copy.asset = { version: '1.0' })), 'version 1.0'],
    ]
    // All of its numbers set to what is none; and numbers that lead past all others where nodes hang on one another.
    const asNaN = file.slice()
    const { bin: numbers } = openGlb(asNaN) as { bin: Uint8Array }
    new Uint8Array(asNaN.buffer, asNaN.length - numbers.length).forEach((_, i, all) => void (all[i] = 0xff))
    expect(await readScene(asNaN)).toMatchObject({ ok: false, why: expect.stringMatching(/no number/) })
    const far = (size: number) => again((copy: Loose) => {
      const roots = copy.scenes[0]!.nodes
      const first = copy.nodes.length
      for (let i = 0; i < 40; i++) copy.nodes.push({ children: i === 39 ? roots : [first + i + 1], scale: [size, size, size] })
      copy.scenes[0]!.nodes = [first]
    })
    expect(await readScene(far(1e13))).toMatchObject({ ok: false, why: expect.stringContaining('farther away') })
    const past = await readScene(far(1e11))
    if (!past.ok) throw new Error(past.why)
    expect(bringScene(filmOf(take), T, past.scene, wishes({ camera: 0 }), RATE, OPTICS, newId).made).toMatchObject({ ok: false, refusal: { code: 'pose-not-finite' } })
    for (const [each, why] of bad) expect(await readScene(each)).toMatchObject({ ok: false, why: expect.stringContaining(why) })
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(file.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }), async (hits) => {
        const broken = file.slice()
        for (const [where, value] of hits) broken[where] = value
        const read = await readScene(broken)
        if (!read.ok) return void expect(read.why).toMatch(/^(?!.*(?:undefined|NaN|\[object|not a function)).{16,}$/is)
        const found = bringScene(filmOf(take), T, read.scene, wishes({ camera: read.scene.cameras.length > 0 ? 0 : null, tolerancePx: 4 }), RATE, OPTICS, newId)
        if (found.made.ok) expect(applyChange(filmOf(take), found.made).ok).toBe(true)
      }),
      { numRuns: 60 },
    )
  }, 120_000)
})
