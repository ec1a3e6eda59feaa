import { z } from 'zod'
import { textSchema as text } from '../text'
import { recordIdSchema } from './fields'

/** Something that a check finds and that is meant so. It is quiet while it is about the same; without `about`, for good. */
export const meantSchema = z.strictObject({
  /**
   * What was found: `levelId.side`, `setLevelId.pieceId.side`, `gap.side`; `paper`: all white paper is meant. At a cut: `cut.start.KIND`, or
   * inside the shot `cut.KEY.KIND`, KEY as `InnerCut` has it.
   */
  id: recordIdSchema,
  note: text(300),
  about: text(20).optional(),
})
export type Meant = Readonly<z.infer<typeof meantSchema>>
