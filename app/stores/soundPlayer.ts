import { lufsOf, MIX_RATE_HZ, mixSample, type HopLevel } from '@rubato/core/sound'
import { secondsOfFrames, type PlaySpan } from '@rubato/core/time'
import { defineStore } from 'pinia'
import { watch, type WatchStopHandle } from 'vue'
import { createWorkerLine, type WorkerLine } from '~/clients/workerLine'
import type { SoundAnswer, SoundAsk } from '~/workers/messages'
import { HOP_SAMPLES, piecesOf, type LineSpec } from '~/workers/soundLine'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { useSoundStore } from './sound'

/** Blocks of the mix, in hops of 960 samples, and how far ahead of what is heard they are put. */
const BLOCK_HOPS = 12
const HOP = HOP_SAMPLES
/** Short-term loudness is that of three seconds (EBU Tech 3341); peaks are those of the last 0.2 s. */
const LOUDNESS_HOPS = 150
const PEAK_HOPS = 10
const KEPT_HOPS = 400
const AHEAD_SECONDS = 0.9
/** Between having the first block and hearing it. */
const LEAD_SECONDS = 0.03
/** Longer than this playback does not wait for its first block: what comes late joins in. */
const PATIENCE_MS = 450
/** What has been put on already stays that long when the mix changes under it. */
const CHANGE_SECONDS = 0.12
const GRAIN_SECONDS = 0.085
/** A clock that has stood still for this long has been taken away with its device. */
const STALLED_MS = 700

interface Run {
  generation: number
  readonly line: LineSpec
  /** The context's time at which the first sample is heard; null until it is known. */
  t0: number | null
  readonly askedAt: number
  /** Samples put on, and asked for. */
  put: number
  asked: number
  readonly nodes: { readonly node: AudioBufferSourceNode; readonly from: number }[]
  /** Highest sample and power of the hops that were put on, the oldest let go; the first is hop `levelsFrom`. */
  levels: number[]
  levelsFrom: number
}

/** The film's sound, mixed in a worker and put on ahead of time; its clock drives the picture. */
export const useSoundPlayerStore = defineStore('soundPlayer', () => {
  let context: AudioContext | null = null
  let out: GainNode | null = null
  let mixer: WorkerLine<SoundAsk> | null = null
  let watching: WatchStopHandle | null = null
  let begunFor = ''
  let run: Run | null = null
  let generation = 0
  /** While taps are made the sound stays as it was heard. */
  let frozen = false
  let last = { seconds: 0, movedAt: 0 }
  let grain = { number: 0, waiting: false, at: 0 }
  /** Where the last grain was taken, and how the pointer went there. */
  let scrubbed: { readonly seconds: number; readonly at: number } | null = null
  let pointer = { speed: 1, backwards: false }

  const film = useFilmStore()
  const desk = useDeskStore()
  const sound = useSoundStore()

  const send = (ask: SoundAsk) => mixer!.send(ask)
  /** Where the last clip has gone, silence is sent. */
  function sendPlan() {
    send({ kind: 'sound', plan: sound.plan() ?? { rate: { ...film.project!.rate }, lanes: [], clips: [], starts: {}, crossings: [] } })
  }

  /** False where the film has no sound. */
  function ready(): boolean {
    if (film.project === null || film.projectId === null || sound.placed.clips.length === 0) return false
    mixer ??= createWorkerLine<SoundAsk, SoundAnswer>(() => new Worker(new URL('../workers/sound.worker.ts', import.meta.url), { type: 'module' }), { answer: take, stopped: () => (begunFor = '') })
    if (begunFor !== film.projectId) {
      begunFor = film.projectId
      send({ kind: 'begin', soundBase: `${location.origin}/api/sounds/` })
      sendPlan()
    }
    watching ??= watch(
      () => [sound.placed, film.gestureOpen] as const,
      ([, open]) => {
        if (open || frozen || mixer?.running !== true || film.project === null || begunFor !== film.projectId) return
        sendPlan()
        renew()
      },
      { flush: 'post' },
    )
    return true
  }

  /** Opening the device takes some 60 ms; so it is done before it is needed. */
  function make(): AudioContext | null {
    if (context === null || context.state === 'closed') {
      try {
        context = new AudioContext({ sampleRate: MIX_RATE_HZ, latencyHint: 'interactive' })
      } catch {
        // Without a device the picture plays by itself.
        return null
      }
      out = context.createGain()
      out.connect(context.destination)
    }
    return context
  }

  function open(): AudioContext | null {
    const on = make()
    if (on === null) return null
    out!.gain.value = sound.volume
    if (on.state === 'suspended') void on.resume().catch(() => undefined)
    return on
  }

  /**
   * Begins to play along a line through the film. True where there is something to hear, and its clock counts; else the
   * picture has to go by another.
   */
  function begin(frame: number, rate: number, loop: PlaySpan | null): boolean {
    end()
    if (!ready()) return false
    const on = open()
    if (on === null || on.state !== 'running') {
      // It may be refused until the page is touched; it is there the next time.
      if (on === null || on.state === 'closed') return false
    }
    const sampleOf = (at: number) => mixSample(secondsOfFrames(at, film.project!.rate))
    const line: LineSpec = { fromSample: sampleOf(rate < 0 ? frame + 1 : frame), rate, loop: loop === null ? null : { startSample: sampleOf(loop.start), endSample: sampleOf(loop.end) } }
    run = { generation: ++generation, line, t0: null, askedAt: performance.now(), put: 0, asked: 0, nodes: [], levels: [], levelsFrom: 0 }
    last = { seconds: -1, movedAt: performance.now() }
    send({ kind: 'play', generation, line })
    ask()
    return true
  }

  /** Asks for blocks until enough is on its way. */
  function ask() {
    if (run === null) return
    const heard = run.t0 === null ? 0 : Math.max(0, (context!.currentTime - run.t0) * MIX_RATE_HZ)
    while (run.asked - heard < AHEAD_SECONDS * MIX_RATE_HZ) {
      send({ kind: 'next', generation: run.generation, hops: BLOCK_HOPS })
      run.asked += BLOCK_HOPS * HOP
    }
  }

  function take(answer: SoundAnswer) {
    if (answer.kind === 'trouble') sound.trouble(answer.assetHash, answer.what)
    else if (answer.kind === 'grain') playGrain(answer.number, answer.left, answer.right)
    else if (answer.kind === 'block' && run !== null && answer.generation === run.generation) {
      run.levels.push(...answer.levels)
      const old = run.levels.length / 2 - KEPT_HOPS
      if (old > 0) {
        run.levels.splice(0, old * 2)
        run.levelsFrom += old
      }
      put(run, answer.left, answer.right)
    }
  }

  function put(of: Run, left: Float32Array, right: Float32Array) {
    const on = context!
    const from = of.put
    of.put += left.length
    of.t0 ??= on.currentTime + LEAD_SECONDS
    const buffer = on.createBuffer(2, left.length, MIX_RATE_HZ)
    buffer.copyToChannel(left as Float32Array<ArrayBuffer>, 0)
    buffer.copyToChannel(right as Float32Array<ArrayBuffer>, 1)
    const node = on.createBufferSource()
    node.buffer = buffer
    node.connect(out!)
    const at = of.t0 + from / MIX_RATE_HZ
    const late = Math.max(0, on.currentTime + 0.005 - at)
    if (late < buffer.duration) node.start(at + late, late)
    // Out of sight nothing else asks: a hidden page draws no frames.
    node.onended = ask
    of.nodes.push({ node, from })
    while (of.nodes.length > 16) of.nodes.shift()
    ask()
  }

  /** The mix has changed: what is not about to be heard is made anew. */
  function renew() {
    const before = run
    if (before === null || before.t0 === null || context === null) return
    const heard = Math.max(0, context.currentTime + CHANGE_SECONDS - before.t0) * MIX_RATE_HZ
    const keep = Math.min(before.put, Math.ceil(heard / HOP) * HOP)
    const at = before.t0 + keep / MIX_RATE_HZ
    for (const { node, from } of before.nodes) {
      try {
        node.stop(Math.max(context.currentTime, from >= keep ? context.currentTime : at))
      } catch {
        // Never begun, so there is nothing to end.
      }
    }
    const along = Math.round(keep * Math.abs(before.line.rate))
    const here = piecesOf(before.line, along, 1)[0]!.first
    before.generation = ++generation
    before.put = keep
    before.asked = keep
    before.nodes.length = 0
    before.levels.length = Math.max(0, Math.min(before.levels.length, (Math.round(keep / HOP) - before.levelsFrom) * 2))
    send({ kind: 'play', generation, line: { ...before.line, fromSample: before.line.rate < 0 ? here + 1 : here } })
    ask()
  }

  /** Seconds since the sound's beginning was heard; below 0 before it. Null where the clock has stopped for good. */
  function elapsedSeconds(): number | null {
    if (run === null || context === null) return null
    ask()
    const now = performance.now()
    if (run.t0 === null) {
      if (now - run.askedAt < PATIENCE_MS) return -1
      if (context.state !== 'running') return null
      run.t0 = context.currentTime
    }
    const stamp = context.getOutputTimestamp()
    const heardAt = stamp.contextTime !== undefined && stamp.performanceTime !== undefined && stamp.contextTime > 0 ? stamp.contextTime + (now - stamp.performanceTime) / 1000 : context.currentTime
    // What is heard is never ahead of what has been given out.
    const seconds = Math.max(last.seconds, Math.min(heardAt, context.currentTime + 0.02) - run.t0)
    if (seconds > last.seconds) last = { seconds, movedAt: now }
    else if (now - last.movedAt > STALLED_MS) return null
    return seconds
  }

  /** How loud it is where it is heard now; null where nothing is. */
  function levels(): { readonly peakDb: number; readonly lufs: number | null } | null {
    if (run === null || run.t0 === null || context === null) return null
    const now = Math.floor(((context.currentTime - run.t0) * MIX_RATE_HZ) / HOP) - run.levelsFrom
    const hops = (count: number) => {
      const found: HopLevel[] = []
      for (let hop = Math.max(0, now - count); hop < now && hop * 2 + 1 < run!.levels.length; hop++) found.push({ peak: run!.levels[hop * 2]!, power: run!.levels[hop * 2 + 1]! })
      return found
    }
    const late = hops(PEAK_HOPS)
    const peak = late.reduce((most, hop) => Math.max(most, hop.peak), 0)
    return { peakDb: peak === 0 ? -Infinity : 20 * Math.log10(peak), lufs: lufsOf(hops(LOUDNESS_HOPS)) }
  }

  function end() {
    for (const { node } of run?.nodes ?? []) {
      try {
        node.stop()
      } catch {
        // Never begun.
      }
    }
    run = null
  }

  /** Decodes what playing from here would need first. */
  function warm(frame: number) {
    if (run !== null || !ready()) return
    if (context === null) requestIdleCallback(() => make(), { timeout: 4000 })
    send({ kind: 'warm', sample: mixSample(secondsOfFrames(frame, film.project!.rate)) })
  }

  /** A short grain of what lies under the playhead, as fast as the pointer goes. */
  function scrubTo(frame: number) {
    const now = performance.now()
    const seconds = film.project === null ? 0 : secondsOfFrames(frame, film.project.rate)
    if (!sound.scrubbing || desk.playing || grain.waiting || now - grain.at < 30 || !ready() || open() === null) return
    grain = { number: grain.number + 1, waiting: true, at: now }
    const moved = scrubbed === null ? 0 : seconds - scrubbed.seconds
    const speed = scrubbed === null || now === scrubbed.at ? 1 : Math.min(2, Math.max(0.5, Math.abs(moved) / ((now - scrubbed.at) / 1000)))
    pointer = { speed, backwards: moved < 0 }
    scrubbed = { seconds, at: now }
    const count = Math.round(GRAIN_SECONDS * speed * MIX_RATE_HZ)
    send({ kind: 'grain', number: grain.number, sample: mixSample(seconds) - (moved < 0 ? count : 0), count })
  }

  function playGrain(number: number, left: Float32Array, right: Float32Array) {
    if (number !== grain.number || context === null) return
    grain.waiting = false
    if (desk.playing || left.length === 0) return
    const buffer = context.createBuffer(2, left.length, MIX_RATE_HZ)
    ;[left, right].forEach((side, i) => buffer.copyToChannel((pointer.backwards ? side.reverse() : side) as Float32Array<ArrayBuffer>, i))
    const node = context.createBufferSource()
    const edge = context.createGain()
    node.buffer = buffer
    node.playbackRate.value = pointer.speed
    const [at, seconds] = [context.currentTime, buffer.duration / pointer.speed]
    edge.gain.setValueAtTime(0, at)
    edge.gain.linearRampToValueAtTime(1, at + seconds * 0.25)
    edge.gain.setValueAtTime(1, at + seconds * 0.7)
    edge.gain.linearRampToValueAtTime(0, at + seconds)
    node.connect(edge).connect(out!)
    node.start(at)
  }

  /** While on, edits are not heard: taps are given to what was there when they began. */
  function freeze(on: boolean) {
    frozen = on
    if (!on && mixer?.running === true && film.project !== null && begunFor === film.projectId) sendPlan()
  }

  function setVolume(volume: number) {
    sound.volume = Math.min(1, Math.max(0, volume))
    if (out !== null) out.gain.value = sound.volume
  }

  /** What was made or recorded is heard by itself. */
  function playOnce(wave: Float32Array, sampleRateHz: number): AudioBufferSourceNode | null {
    const on = open()
    if (on === null || wave.length === 0) return null
    const buffer = on.createBuffer(1, wave.length, sampleRateHz)
    buffer.copyToChannel(wave as Float32Array<ArrayBuffer>, 0)
    const node = on.createBufferSource()
    node.buffer = buffer
    node.connect(out!)
    node.start()
    return node
  }

  return { begin, end, levels, elapsedSeconds, warm, scrubTo, freeze, setVolume, playOnce, open }
})
