/** One level of a frame as a picture of its own. */
export interface FrameLayer {
  readonly id: string
  readonly name: string
  /** A level, or the shadow that it throws. */
  readonly kind: 'level' | 'shadow'
  /** 0 for the farthest; each is drawn over those before it. */
  readonly order: number
  /** Distance of its pivot along the lens axis, fw. */
  readonly depthFw: number
  /** 0…1; in the picture already. */
  readonly opacity: number
  /** Parts of it lie before and behind parts of another: as one picture it can't. */
  readonly isCut: boolean
  /** Where its picture lies in the frame, px. */
  readonly box: { readonly left: number; readonly top: number; readonly width: number; readonly height: number }
}
export interface PackedLayer extends FrameLayer {
  /** A PNG file. */
  readonly png: Uint8Array
}

/** Layers of a frame in one piece of memory: the length of what is said of them as 32 bits, that as JSON, then the pictures in turn. */
export function packLayers(layers: readonly PackedLayer[]): Uint8Array<ArrayBuffer> {
  const head = new TextEncoder().encode(JSON.stringify(layers.map(({ png, ...said }) => ({ ...said, bytes: png.length }))))
  const all = new Uint8Array(4 + head.length + layers.reduce((sum, { png }) => sum + png.length, 0))
  new DataView(all.buffer).setUint32(0, head.length, true)
  all.set(head, 4)
  let at = 4 + head.length
  for (const { png } of layers) {
    all.set(png, at)
    at += png.length
  }
  return all
}

/** Throws for what is no such piece. */
export function unpackLayers(all: Uint8Array): readonly PackedLayer[] {
  const length = all.length < 4 ? 0 : new DataView(all.buffer, all.byteOffset).getUint32(0, true)
  if (length === 0 || 4 + length > all.length) throw new Error('unpackLayers: it is cut short')
  const said = JSON.parse(new TextDecoder().decode(all.subarray(4, 4 + length))) as readonly (FrameLayer & { readonly bytes: number })[]
  let at = 4 + length
  return said.map(({ bytes, ...layer }) => {
    const png = all.subarray(at, at + bytes)
    if (png.length !== bytes) throw new Error('unpackLayers: it is cut short')
    at += bytes
    return { ...layer, png }
  })
}

/** What a sequence of layers is of. */
export interface LayersOf {
  readonly film: string
  readonly shot: string
  readonly rate: { readonly numerator: number; readonly denominator: number }
  readonly widthPx: number
  readonly heightPx: number
  /** The shot's frame that is the first; handles come before 0. */
  readonly firstFrame: number
}

/**
 * Layers as files, frame after frame: a folder a level, its pictures numbered as the frames are, and in the end a table (JSON) of what
 * was where. The same pictures come for a frame that is the one before.
 */
export function createLayerFiles(of: LayersOf, totalFrames: number) {
  const digits = Math.max(4, String(totalFrames).length)
  const folders = new Map<string, string>()
  const taken = new Set<string>()
  const folderOf = ({ id, name, kind }: FrameLayer): string => {
    const key = `${kind}:${id}`
    const known = folders.get(key)
    if (known !== undefined) return known
    const plain = `${name}${kind === 'shadow' ? ' shadow' : ''}`.trim().replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^\.+/, '') || 'level'
    let made = plain
    for (let n = 2; taken.has(made.toLowerCase()); n++) made = `${plain}-${n}`
    taken.add(made.toLowerCase())
    folders.set(key, made)
    return made
  }
  const frames: object[] = []
  let before: readonly PackedLayer[] = []
  return {
    /** The files of the next frame; null: as the one before. */
    next(packed: Uint8Array | null): readonly { readonly name: string; readonly bytes: Uint8Array }[] {
      if (packed !== null) before = unpackLayers(packed)
      const number = String(frames.length).padStart(digits, '0')
      const files = before.map((layer) => ({ name: `${folderOf(layer)}/${folderOf(layer)}_${number}.png`, bytes: layer.png }))
      frames.push({ frame: of.firstFrame + frames.length, layers: before.map(({ png: _, ...said }, i) => ({ ...said, file: files[i]!.name })) })
      return files
    },
    table: (): string => `${JSON.stringify({ ...of, units: { depthFw: 'frame widths', box: 'px from the left and top of the frame', order: '0 is the farthest' }, frames }, null, 1)}\n`,
  }
}
