/** What takes the frames of an export, in order, and makes a file of them. */
export interface FrameTaker {
  /** `data` is null where the frame is the one before. Resolves when the next frame may come. */
  take(index: number, data: ArrayBuffer | null): Promise<void>
  finish(): Promise<Made>
  /** Throws away what is made so far. */
  abandon(): Promise<void>
}

export interface Made {
  readonly file: Blob
  readonly codec: string | null
}

/** An error as a worker tells it to another thread, where its name would be lost. */
export interface ToldError {
  readonly name: string
  readonly what: string
}

export function errorOf({ name, what }: ToldError): Error {
  const error = new Error(what)
  error.name = name
  return error
}
