import { EMPTY_OUTLINE } from '@rubato/core/document'
import { bringScene, framesOfScene, readScene, type OpenedScene, type SceneThing } from '@rubato/core/scene'
import { answerJobs } from './answerJobs'
import type { SceneAnswer, SceneInAsk } from './handOverMessages'

/** The scene that was read last: what is asked of it again is not read again. */
let read: { readonly file: File; readonly scene: OpenedScene } | null = null

answerJobs<SceneInAsk, SceneAnswer>(async ({ file, takeId, take, wishes, rate, optics, ids }) => {
  if (read?.file.name !== file.name || read.file.size !== file.size || read.file.lastModified !== file.lastModified) {
    const found = await readScene(new Uint8Array(await file.arrayBuffer()))
    if (!found.ok) throw new Error(found.why)
    read = { file, scene: found.scene }
  }
  const { scene } = read
  const isOwn = ({ levelId }: SceneThing) => levelId !== null && take.levels[levelId] !== undefined
  const things = scene.things.filter(({ kind, levelId }) => kind !== 'level' && levelId === null)
  const told = {
    title: scene.title,
    seconds: scene.seconds,
    own: scene.own,
    keysPerSecond: scene.keysPerSecond,
    cameras: scene.cameras.map(({ name, cameraId, moves }) => ({ name, cameraId, moves })),
    levels: scene.things.filter(isOwn).length,
    carriers: things.filter(({ bounds }) => bounds === null).length,
    shapes: things.filter(({ bounds }) => bounds !== null).length,
    frames: { time: framesOfScene(scene, rate, 'time'), keys: framesOfScene(scene, rate, 'keys') },
    notes: scene.notes,
  }
  if (wishes === null) return { told, brought: null }
  let next = 0
  const brought = bringScene({ outline: EMPTY_OUTLINE, takes: { [takeId]: take }, drawings: {} }, takeId, scene, wishes, rate, optics, () => `${ids}-${(next++).toString(36)}`)
  return { told, brought }
})
