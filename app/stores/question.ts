import { shallowRef } from 'vue'

/** Something that can't go on without the artist. */
export interface Question {
  readonly title: string
  readonly text: string
  readonly yes: string
  readonly no: string
}

/** The question that is open, for the film's view to show. */
export const question = shallowRef<(Question & { readonly answer: (yes: boolean) => void }) | null>(null)

/** Asks, and waits. A second question is answered no to the first. */
export function ask(asked: Question): Promise<boolean> {
  question.value?.answer(false)
  return new Promise((resolve) => {
    question.value = {
      ...asked,
      answer: (yes) => {
        question.value = null
        resolve(yes)
      },
    }
  })
}
