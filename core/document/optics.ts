import type { Optics } from '../camera/lens'
import type { Project } from './records'
import type { Outline } from './units'

/** What a project's cameras share. */
export function opticsOf(project: Pick<Project, 'filmBackMm' | 'baseLensMm' | 'widthPx' | 'heightPx'>): Optics {
  return { filmBackMm: project.filmBackMm, baseLensMm: project.baseLensMm, aspect: project.widthPx / project.heightPx }
}

/** Those of the film's one project. Throws for an outline without one. */
export function opticsOfFilm(outline: Pick<Outline, 'project'>): Optics {
  const [project] = Object.values(outline.project)
  if (project === undefined) throw new Error('opticsOfFilm: the outline has no project')
  return opticsOf(project)
}
