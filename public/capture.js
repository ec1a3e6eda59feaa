/** Hands on what comes in, a block of 2048 samples at a time. Runs on the audio thread. */
class Capture extends AudioWorkletProcessor {
  constructor() {
    super()
    this.block = new Float32Array(2048)
    this.filled = 0
  }
  process([input]) {
    const channel = input?.[0]
    if (channel === undefined) return true
    for (let i = 0; i < channel.length; i++) {
      this.block[this.filled++] = channel[i]
      if (this.filled < this.block.length) continue
      this.port.postMessage(this.block.slice())
      this.filled = 0
    }
    return true
  }
}
registerProcessor('rubato-capture', Capture)
