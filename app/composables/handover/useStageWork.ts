import type { Checked, PageJob } from '#shared/renders'
import { printJobs } from '~/clients/printJobs'
import { USUAL_PRINT, usePrintAsk } from '~/composables/boards/usePrintAsk'
import { useCutsStore } from '~/stores/cuts'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { cutWords } from '~/text/cutWords'
import { findingFacts, findingTitle } from '~/text/findings'
import { formatOf } from '~/workers/formats'
import { useMovieOut } from './useMovieOut'

/** What a worker of the server's queue has its page do: the same as the artist's own page does, handed in elsewhere. */
export function useStageWork() {
  const film = useFilmStore()
  const edges = useEdgesStore()
  const cuts = useCutsStore()
  const movies = useMovieOut()
  const { askOf } = usePrintAsk()
  const within = (start: number, end: number) => film.filmStage.shots.filter(({ startFrame, lengthFrames }) => startFrame < end && startFrame + lengthFrames > start)
  const never = new AbortController().signal

  async function make({ projectId, version, format: id, look, shotId, start, end, fileSpan, lead, said, url, as }: PageJob): Promise<void> {
    if (film.projectId !== projectId || film.lookingAt?.version !== version) {
      await film.openVersion(projectId, version)
      if (film.loadFailure !== null) throw new Error(film.loadFailure)
    }
    const format = formatOf(id)
    if (format.needs === 'stage') {
      const placed = shotId === null ? null : film.filmStage.placeOf(shotId)
      if (placed === null) throw new Error('The shot is not in the film.')
      return handIn(url, (await movies.stagesOf([placed], id, never, () => undefined)).file)
    }
    if (format.needs === 'checks') return handIn(url, new Blob([JSON.stringify(await findings(start, end))]))
    if (format.needs === 'boards') return handIn(url, (await printJobs.run(askOf(within(start, end), null, USUAL_PRINT))).file)
    if (format.needs !== 'frames' && format.needs !== 'sound') throw new Error(`${format.label} is not made by workers.`)
    const made = await movies.makeFile({ shotId, span: { start, end } }, look, id, format, never, () => undefined, 'piece', { said, fileSpan, withLead: lead, ...(as === 'frames' ? { handIn: url } : {}) })
    if (as === 'file') await handIn(url, made.file)
  }

  /** What the checks find in the shots of a span of the film, in words. */
  async function findings(start: number, end: number): Promise<Checked> {
    const shots: Checked['shots'][number][] = []
    for (const placed of within(start, end)) {
      const { shot: { circledTakeId: takeId, label }, startFrame, lengthFrames } = placed
      await film.ensureTakeWithArt(takeId)
      if (!(await edges.look(takeId))) throw new Error(`Shot ${label} could not be looked through. ${edges.trouble ?? ''}`)
      const nameOf = (id: string) => film.takeOf(takeId)?.levels[id]?.name ?? 'a level'
      const found = (edges.looked.get(takeId)?.findings ?? []).map((finding) => ({
        kind: finding.kind,
        says: `${findingTitle(finding, nameOf)}, ${findingFacts(finding)}`,
        level: finding.levelId === null ? null : nameOf(finding.levelId),
        side: finding.side,
        frames: finding.ranges,
        worstFrame: finding.worstFrame,
        amount: finding.amount,
        meant: edges.meantOf(takeId, finding),
      }))
      const read = (await cuts.read(placed)).map(({ label: cut, kind, after, readings }) => ({
        cut,
        kind,
        frame: after.frame,
        readings: readings.map(({ reading, meant }) => {
          const { name, figures, says } = cutWords(reading)
          return { kind: reading.kind, verdict: reading.verdict, says: `${name} ${figures}: ${says}`, meant }
        }),
      }))
      shots.push({ shot: label, startFrame, lengthFrames, findings: found, cuts: read })
    }
    const openOf = ({ findings: all, cuts: read }: Checked['shots'][number]) =>
      [...all, ...read.flatMap(({ readings }) => readings.filter(({ verdict }) => verdict !== 'well'))].filter(({ meant }) => meant === null).length
    return { film: film.project?.title ?? '', open: shots.reduce((sum, shot) => sum + openOf(shot), 0), shots }
  }

  async function handIn(url: string, body: Blob): Promise<void> {
    const response = await fetch(`${url}/file`, { method: 'PUT', body })
    if (!response.ok) throw new Error(`What was made could not be handed in (${response.status}).`)
  }

  /** Null when it is done, or why it is not. */
  return (job: PageJob): Promise<string | null> => make(job).then(() => null, (error: Error) => error.message || error.name)
}
