import { z } from 'zod'
import { orderSchema as order } from '../order'
import { textSchema as text } from '../text'
import { idSchema, point3 } from './fields'
import { pieceKinds, pieceReference } from './levels'

/** A set by its name, and where it stands in a shot that it is put into: so all shots have it at one place. */
export const setSchema = z.strictObject({
  id: idSchema,
  order,
  name: text(120).min(1),
  stands: point3,
})

/** A level of a set; its numbers are in the set's own axes, or in those of the piece that carries it. */
export const pieceSchema = z.discriminatedUnion('kind', [...pieceKinds, pieceReference])

/** What a piece shows, wherever the set is seen. */
export const pieceArtSchema = z.strictObject({
  /** The piece's. */
  id: idSchema,
  drawingId: idSchema,
})

export type SetName = Readonly<z.infer<typeof setSchema>>
export type Piece = Readonly<z.infer<typeof pieceSchema>>
export type PieceArt = Readonly<z.infer<typeof pieceArtSchema>>
