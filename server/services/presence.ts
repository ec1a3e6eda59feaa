import { literal, Op } from 'sequelize'
import { PRESENCE_MS, type Present } from '#shared/live'
import { useDatabase } from '../models/database'
import { notify } from './notices'

/** Says that a window is there, and where; all servers hear of it when that is news. */
export async function beHere(projectId: string, { session, name, shotId }: Present): Promise<void> {
  const { sequelize, models } = await useDatabase()
  const known = await models.PresenceRow.findOne({ where: { projectId, session } })
  await models.PresenceRow.upsert({ projectId, session, name, shotId, seenAt: new Date() })
  if (known === null || known.name !== name || known.shotId !== shotId) await notify(sequelize, { project: projectId, of: 'here' })
}

export async function leave(projectId: string, session: string): Promise<void> {
  const { sequelize, models } = await useDatabase()
  const gone = await models.PresenceRow.destroy({ where: { projectId, session } })
  if (gone > 0) await notify(sequelize, { project: projectId, of: 'here' })
}

/** The windows seen lately; by the database's clock, which all servers share. */
export async function whoIsHere(projectId: string): Promise<readonly Present[]> {
  const { models } = await useDatabase()
  const recent = literal(`now() - interval '${PRESENCE_MS} milliseconds'`)
  await models.PresenceRow.destroy({ where: { projectId, seenAt: { [Op.lt]: recent } } as never })
  const rows = await models.PresenceRow.findAll({ where: { projectId }, order: [['session', 'ASC']] })
  return rows.map(({ session, name, shotId }) => ({ session, name, shotId }))
}
