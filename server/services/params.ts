import { idSchema } from '@rubato/core/document'
import { getQuery, getRouterParam, type H3Event } from 'h3'
import { LOAD_LIMIT } from '#shared/projects'
import { notFound, refuse } from './refusals'

export function idParam(event: H3Event): string {
  const parsed = idSchema.safeParse(getRouterParam(event, 'id'))
  if (!parsed.success) throw notFound('project', String(getRouterParam(event, 'id')).slice(0, 64))
  return parsed.data
}

export function uploadParam(event: H3Event): string {
  const parsed = idSchema.safeParse(getRouterParam(event, 'upload'))
  if (!parsed.success) throw notFound('upload', String(getRouterParam(event, 'upload')).slice(0, 64))
  return parsed.data
}

export function versionParam(event: H3Event): string {
  const parsed = idSchema.safeParse(getRouterParam(event, 'version'))
  if (!parsed.success) throw notFound('version', String(getRouterParam(event, 'version')).slice(0, 64))
  return parsed.data
}

/** `?ids=a,b,c`, at most `LOAD_LIMIT` of them. */
export function idsQuery(event: H3Event): readonly string[] {
  const ids = String(getQuery(event).ids ?? '').split(',').filter((id) => id !== '')
  if (ids.length > LOAD_LIMIT) throw refuse(422, 'too-many-ids', `${ids.length} ids were asked for; at most ${LOAD_LIMIT} are given at once.`)
  const bad = ids.find((id) => !idSchema.safeParse(id).success)
  if (bad !== undefined) throw refuse(422, 'invalid-id', `"${bad.slice(0, 64)}" is not an id.`)
  return ids
}

export function renderParam(event: H3Event): string {
  const parsed = idSchema.safeParse(getRouterParam(event, 'render'))
  if (!parsed.success) throw notFound('render', String(getRouterParam(event, 'render')).slice(0, 64))
  return parsed.data
}
