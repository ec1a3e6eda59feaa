import { exposuresOf, placedPanels, takeLengthFrames } from '@rubato/core/document'
import { useDeskStore } from '~/stores/desk'
import { usePenStore } from '~/stores/pen'

/** What is flipped to from the playhead: of a level that is exposed inside panels its exposures, else panels. */
export function useFlips() {
  const desk = useDeskStore()
  const pen = usePenStore()

  /** First frames of what may be flipped through, in order; the one at the playhead. */
  function stops(): { readonly frames: readonly number[]; readonly at: number } {
    const [take, level] = [desk.take, desk.selectedLevel]
    if (take === null) return { frames: [], at: -1 }
    const exposures = level === null ? [] : exposuresOf(take, level.id)
    const frames = exposures.some(({ cell }) => cell.offsetFrames !== undefined) ? exposures.map(({ frame }) => frame) : placedPanels(take).map(({ startFrame }) => startFrame)
    return { frames, at: frames.findLastIndex((frame) => frame <= desk.shotFrame) }
  }

  function frameBefore(): number | null {
    const { frames, at } = stops()
    return frames[at - 1] ?? null
  }

  /** From so many before to so many after as show through, at least one to each side. */
  function framesAround(): { readonly from: number; readonly to: number } | null {
    const { frames, at } = stops()
    if (desk.take === null || frames.length < 2) return null
    const [first, last] = [Math.max(0, at - Math.max(1, pen.ghosts.before)), at + Math.max(1, pen.ghosts.after)]
    const [from, to] = [frames[first]!, frames[last + 1] ?? takeLengthFrames(desk.take)]
    return to - from < 2 ? null : { from, to }
  }

  return { frameBefore, framesAround }
}
