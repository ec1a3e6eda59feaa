import type { Readable } from 'node:stream'

/** Where a worker's own page hands in what it makes; one for each job, under a name that only that page was told. */
export interface Sink {
  /** A frame of the piece; null where it is the one before. Frames come in order. */
  frame(bytes: Buffer | null, widthPx: number, heightPx: number): Promise<void>
  file(body: Readable): Promise<void>
}

const sinks = new Map<string, Sink>()

export const openSink = (token: string, sink: Sink): void => void sinks.set(token, sink)
export const closeSink = (token: string): void => void sinks.delete(token)
export const sinkOf = (token: string): Sink | null => sinks.get(token) ?? null
