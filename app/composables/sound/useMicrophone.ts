import { babble, BABBLE_RATE_HZ, voiceOf } from '@rubato/core/sound'
import { onBeforeUnmount, ref, shallowRef } from 'vue'

/** A microphone of the machine, or the simulated one, which hears a made-up voice say the words. */
export interface Microphone {
  readonly id: string
  readonly name: string
}
export const SIMULATED: Microphone = { id: 'simulated', name: 'Simulated microphone' }

const LONGEST_SECONDS = 600
const RATE_HZ = 48_000
/** The simulated speaker takes a breath first. */
const BREATH_SECONDS = 0.25

/** Takes in what a microphone hears. */
export function useMicrophone() {
  const microphones = shallowRef<readonly Microphone[]>([SIMULATED])
  const recording = ref(false)
  const level = ref(0)
  const seconds = ref(0)
  let context: AudioContext | null = null
  let stream: MediaStream | null = null
  let blocks: Float32Array[] = []

  /** What the browser has; names are told only once it was allowed to listen. */
  async function look() {
    const devices = (await navigator.mediaDevices?.enumerateDevices().catch(() => [])) ?? []
    const inputs = devices.filter((device) => device.kind === 'audioinput' && device.deviceId !== '')
    microphones.value = [...inputs.map((device, i) => ({ id: device.deviceId, name: device.label || `Microphone ${i + 1}` })), ...(inputs.length === 0 && navigator.mediaDevices !== undefined ? [{ id: 'default', name: 'This machine’s microphone' }] : []), SIMULATED]
  }

  /** Begins to listen; throws, with the reason, where that can't be. */
  async function start(microphone: string, words: string, speaker: string): Promise<void> {
    if (recording.value) return
    blocks = []
    level.value = 0
    seconds.value = 0
    context = new AudioContext({ sampleRate: RATE_HZ })
    try {
      await context.audioWorklet.addModule('/capture.js')
      const capture = new AudioWorkletNode(context, 'rubato-capture', { numberOfOutputs: 0 })
      capture.port.onmessage = ({ data }: MessageEvent<Float32Array>) => hear(data)
      if (microphone === SIMULATED.id) {
        const wave = babble(words || 'Mind the lamp.', voiceOf(speaker || 'Nobody'))
        const buffer = context.createBuffer(1, Math.max(1, wave.length), BABBLE_RATE_HZ)
        buffer.copyToChannel(wave as Float32Array<ArrayBuffer>, 0)
        const node = context.createBufferSource()
        node.buffer = buffer
        // A source that is never silent, so that pauses are recorded as well.
        const room = new ConstantSourceNode(context, { offset: 0 })
        room.connect(capture)
        room.start()
        node.connect(capture)
        node.start(context.currentTime + BREATH_SECONDS)
      } else {
        stream = await navigator.mediaDevices.getUserMedia({ audio: { ...(microphone === 'default' ? {} : { deviceId: { exact: microphone } }), echoCancellation: false, noiseSuppression: false, autoGainControl: false } }).catch((error: DOMException) => {
          throw new Error(REASONS[error.name] ?? `The microphone can’t be used (${error.message}).`)
        })
        context.createMediaStreamSource(stream).connect(capture)
      }
      await context.resume()
      recording.value = true
    } catch (error) {
      await close()
      throw error
    }
  }

  const REASONS: Readonly<Record<string, string>> = {
    NotAllowedError: 'The browser may not listen. Allow the microphone for this page, or choose the simulated one.',
    NotFoundError: 'No microphone was found. Connect one, or choose the simulated one.',
    NotReadableError: 'The microphone is in use by another program. Close that, or choose another microphone.',
  }

  function hear(block: Float32Array) {
    if (!recording.value && blocks.length > 0) return
    blocks.push(block)
    level.value = block.reduce((most, value) => Math.max(most, Math.abs(value)), 0)
    seconds.value = (blocks.length * block.length) / RATE_HZ
    if (seconds.value > LONGEST_SECONDS) recording.value = false
  }

  /** Ends it, and gives what was heard; empty where nothing was. */
  async function stop(): Promise<{ readonly wave: Float32Array; readonly sampleRateHz: number }> {
    recording.value = false
    await close()
    const wave = new Float32Array(blocks.reduce((sum, block) => sum + block.length, 0))
    let at = 0
    for (const block of blocks) {
      wave.set(block, at)
      at += block.length
    }
    blocks = []
    return { wave, sampleRateHz: RATE_HZ }
  }

  async function close() {
    for (const track of stream?.getTracks() ?? []) track.stop()
    stream = null
    await context?.close().catch(() => undefined)
    context = null
    level.value = 0
  }
  onBeforeUnmount(() => void close())

  return { microphones, recording, level, seconds, look, start, stop }
}
