import { drawingsOf } from '@rubato/core/document'
import { writeScene, type ScenePicture } from '@rubato/core/interchange'
import type { StageShot } from './formats'

/** A shot's set and cameras, with the art of its levels as pictures. */
export async function sceneOf({ label, stage, project, picture }: StageShot): Promise<Uint8Array<ArrayBuffer>> {
  const pictures = new Map<string, ScenePicture>()
  for (const id of drawingsOf(stage.take)) {
    const made = await picture(id)
    if (made !== null) pictures.set(id, { png: new Uint8Array(await made.picture.arrayBuffer()), box: made.bounds })
  }
  return writeScene({ title: `${project.title} ${label}`, rate: project.rate, stage, metresPerFw: project.metresPerFw ?? null, pictures })
}
