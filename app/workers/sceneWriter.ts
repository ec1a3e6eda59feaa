import { drawingsOf } from '@rubato/core/document'
import { writeCameraJson, writeCameraTable, writeScene, type CameraTableAsk, type ScenePicture } from '@rubato/core/scene'
import type { StageShot } from './stageShot'

/** A shot's set and cameras, with the art of its levels as pictures. */
export async function sceneOf({ label, stage, project, picture }: StageShot): Promise<Uint8Array<ArrayBuffer>> {
  const pictures = new Map<string, ScenePicture>()
  for (const id of drawingsOf(stage.take)) {
    const made = await picture(id)
    if (made !== null) pictures.set(id, { png: new Uint8Array(await made.picture.arrayBuffer()), box: made.bounds })
  }
  return writeScene({ title: `${project.title} ${label}`, rate: project.rate, stage, metresPerFw: project.metresPerFw ?? null, pictures })
}

const tableOf = ({ stage, project, startFrame }: StageShot): CameraTableAsk => ({ stage, rate: project.rate, drop: project.dropFrame ?? false, startFrame, widthPx: project.widthPx, metresPerFw: project.metresPerFw ?? null })
export const cameraCsv = (shot: StageShot) => writeCameraTable(tableOf(shot))
export const cameraJson = (shot: StageShot) => writeCameraJson(tableOf(shot))
