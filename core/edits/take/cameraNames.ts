import { inOrder } from '../../document/order'
import { firstCamera } from '../../document/panels'
import type { Camera } from '../../document/records'
import type { TakeBody } from '../../document/units'
import type { Draft } from '../change/draft'
import type { NewIds } from '../change/newIds'

export const lettersOf = (take: TakeBody) => new Map(inOrder(take.cameras).map((camera) => [camera.letter, camera.id]))

/** What cameras of a take are called in another: the first is the first there, the others go by their letters, and those that it has not are put into it. */
export function namesOfCameras(draft: Draft<TakeBody>, cameras: readonly Camera[], to: TakeBody, newId: NewIds, byLetter: Map<string, string> = lettersOf(to)): ReadonlyMap<string, string> {
  const names = new Map<string, string>()
  const first = firstCamera(to)?.id
  cameras.forEach((camera, i) => {
    let id = i === 0 ? first : byLetter.get(camera.letter)
    if (id === undefined || [...names.values()].includes(id)) {
      id = to.cameras[camera.id] === undefined ? camera.id : newId()
      byLetter.set(camera.letter, id)
      draft.put('cameras', { ...camera, id })
    }
    names.set(camera.id, id)
  })
  return names
}
