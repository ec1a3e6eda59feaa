import { QueryTypes } from 'sequelize'
import { useDatabase } from '../models/database'
import { useBlobs } from '../storage/blobs'
import { dropAsset, NEEDED } from './assets'
import { dropOldUploads } from './uploads'

/** A picture may wait this long in a browser before the change that shows it arrives. */
const UNCLAIMED_DAYS = 14

export interface Swept {
  readonly dry: boolean
  readonly blobs: number
  readonly bytes: number
  readonly uploads: number
  readonly hashes: readonly string[]
}

/**
 * Lets go of pictures and sounds that no project needs: not its drawings, not its versions, not undo. What a project
 * has ever shown it keeps, until it is deleted for good. Dry, it only tells.
 */
export async function sweepBlobs(dry: boolean): Promise<Swept> {
  const { sequelize } = await useDatabase()
  const blobs = useBlobs()
  const youngest = Date.now() - UNCLAIMED_DAYS * 24 * 3600 * 1000
  const hashes: string[] = []
  let bytes = 0
  for await (const blob of blobs.list()) {
    if (blob.changedAt.getTime() > youngest) continue
    // Asked for each just before it goes: one may have been placed, or have come in again, meanwhile.
    const needed = async () => (await sequelize.query<{ needed: boolean }>(`SELECT ${NEEDED} AS needed`, { bind: [blob.hash], type: QueryTypes.SELECT }))[0]!.needed
    const goes = dry ? !(await needed()) : await dropAsset(blob.hash, 'AND a.touched_at < $2', [new Date(youngest)], true)
    if (!goes) continue
    hashes.push(blob.hash)
    bytes += blob.bytes
  }
  return { dry, blobs: hashes.length, bytes, uploads: dry ? 0 : await dropOldUploads(), hashes: hashes.slice(0, 1000) }
}
