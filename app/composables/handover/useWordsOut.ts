import { inOrder, placedPanels } from '@rubato/core/document'
import type { BoardedSequence, TimedWords } from '@rubato/core/interchange'
import { ref } from 'vue'
import { takesInOrder } from '~/api/allTakes'
import { useFilmStore } from '~/stores/film'
import type { WordsFormat } from '~/workers/formats'

/** Hands a file to the browser. */
export function saveFile(name: string, content: Blob) {
  const url = URL.createObjectURL(content)
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 60_000)
}

export const fileTitle = (title: string) => title.replace(/[^\p{L}\p{N} _-]/gu, '').trim().slice(0, 80) || 'Film'

/** Writes what the boards say: as a screenplay, or their dialogue as subtitles at its real times. */
export function useWordsOut() {
  const film = useFilmStore()
  const busy = ref(false)

  /** What the boards say in a format, and the name of its file. */
  async function wordsFile({ extension, type, write }: WordsFormat, onProgress: (share: number) => void, gate: AbortSignal): Promise<{ readonly name: string; readonly file: Blob }> {
    const { project, projectId } = film
    if (project === null || projectId === null) throw new Error('No film is open.')
    await film.settled()
    const words: TimedWords[] = []
    const sequences = new Map<string, { label: string; panels: { action: string; dialogue: string }[] }[]>()
    for await (const { placed, take } of takesInOrder(projectId, film.lookingAt?.version ?? null, film.filmStage.shots, onProgress, gate)) {
      const panels = placedPanels(take.body)
      words.push(...panels.map(({ panel, startFrame }) => ({ startFrame: placed.startFrame + startFrame, lengthFrames: panel.lengthFrames, dialogue: panel.dialogue })))
      const shot = { label: placed.shot.label, panels: panels.map(({ panel }) => panel) }
      sequences.set(placed.shot.sequenceId, [...(sequences.get(placed.shot.sequenceId) ?? []), shot])
    }
    const text = write({ title: project.title, rate: project.rate, panels: words, sequences: boardedSequences(sequences) })
    return { name: `${fileTitle(project.title)}.${extension}`, file: new Blob([text], { type: `${type};charset=utf-8` }) }
  }

  async function wordsOut(format: WordsFormat) {
    if (busy.value) return
    busy.value = true
    try {
      const { name, file } = await wordsFile(format, () => undefined, new AbortController().signal)
      saveFile(name, file)
    } catch (error) {
      film.refuse(`The words were not written. ${(error as Error).message}`)
    } finally {
      busy.value = false
    }
  }

  function boardedSequences(shots: ReadonlyMap<string, BoardedSequence['shots']>): BoardedSequence[] {
    const { sequences, passages } = film.film.outline
    // The first scene of a sequence names it.
    const headings = new Map([...inOrder(passages)].reverse().filter((passage) => passage.kind === 'scene' && passage.sequenceId !== null).map((passage) => [passage.sequenceId!, passage.text]))
    return inOrder(sequences).map((sequence) => ({ sequence, heading: headings.get(sequence.id) ?? null, shots: shots.get(sequence.id) ?? [] }))
  }

  return { wordsOut, wordsFile, busy }
}
