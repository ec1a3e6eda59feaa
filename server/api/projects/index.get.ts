import { defineEventHandler, getQuery } from 'h3'
import { SHELVES, type Shelf } from '#shared/projects'
import { listProjects } from '../../services/projects'
import { refuse } from '../../services/refusals'

/** `?shelf=desk|archive|trash` */
export default defineEventHandler((event) => {
  const shelf = getQuery(event).shelf ?? 'desk'
  if (!SHELVES.includes(shelf as Shelf)) throw refuse(422, 'invalid-request', `shelf: one of ${SHELVES.join(', ')}.`)
  return listProjects(shelf as Shelf)
})
