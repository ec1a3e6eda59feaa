/** Binary glTF 2.0, written: a JSON part and one buffer. https://registry.khronos.org/glTF/specs/2.0/glTF-2.0.html#glb-file-format-specification */
const MAGIC = 0x46546c67
const JSON_CHUNK = 0x4e4f534a
const BIN_CHUNK = 0x004e4942
const FLOAT = 5126
const UNSIGNED_SHORT = 5123
const ARRAY_BUFFER = 34_962
const ELEMENT_ARRAY_BUFFER = 34_963
export type AccessorType = 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4'
const WIDTHS: Readonly<Record<AccessorType, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }

/** What a glTF file's one buffer holds, and how it is told in its JSON. */
export class GlbBuffer {
  readonly #parts: Uint8Array[] = []
  #bytes = 0
  readonly bufferViews: object[] = []
  readonly accessors: object[] = []

  #view(bytes: Uint8Array, target?: number): number {
    this.bufferViews.push({ buffer: 0, byteOffset: this.#bytes, byteLength: bytes.length, ...(target === undefined ? {} : { target }) })
    const padded = new Uint8Array(Math.ceil(bytes.length / 4) * 4)
    padded.set(bytes)
    this.#parts.push(padded)
    this.#bytes += padded.length
    return this.bufferViews.length - 1
  }

  /** A picture or other file inside. */
  file(bytes: Uint8Array): number {
    return this.#view(bytes)
  }

  /** Numbers as 32-bit floats, with the bounds that the format asks for. `vertices`: of a mesh. */
  floats(values: ArrayLike<number>, type: AccessorType, vertices = false): number {
    const floats = Float32Array.from(values)
    const width = WIDTHS[type]
    const [min, max] = [Array.from({ length: width }, () => Infinity), Array.from({ length: width }, () => -Infinity)]
    floats.forEach((value, i) => {
      min[i % width] = Math.min(min[i % width]!, value)
      max[i % width] = Math.max(max[i % width]!, value)
    })
    this.accessors.push({ bufferView: this.#view(new Uint8Array(floats.buffer), vertices ? ARRAY_BUFFER : undefined), componentType: FLOAT, count: floats.length / width, type, min, max })
    return this.accessors.length - 1
  }

  indices(values: readonly number[]): number {
    this.accessors.push({ bufferView: this.#view(new Uint8Array(Uint16Array.from(values).buffer), ELEMENT_ARRAY_BUFFER), componentType: UNSIGNED_SHORT, count: values.length, type: 'SCALAR' })
    return this.accessors.length - 1
  }

  /** The whole file; what is in `json` and not in here is added. */
  write(json: Readonly<Record<string, unknown>>): Uint8Array<ArrayBuffer> {
    const all = { ...json, ...(this.accessors.length === 0 ? {} : { accessors: this.accessors }), ...(this.bufferViews.length === 0 ? {} : { bufferViews: this.bufferViews, buffers: [{ byteLength: this.#bytes }] }) }
    const text = new TextEncoder().encode(JSON.stringify(all))
    const jsonBytes = Math.ceil(text.length / 4) * 4
    const binBytes = this.#bytes === 0 ? 0 : 8 + this.#bytes
    const file = new Uint8Array(12 + 8 + jsonBytes + binBytes)
    const view = new DataView(file.buffer)
    for (const [i, value] of [MAGIC, 2, file.length, jsonBytes, JSON_CHUNK].entries()) view.setUint32(i * 4, value, true)
    file.fill(0x20, 20, 20 + jsonBytes)
    file.set(text, 20)
    if (binBytes === 0) return file
    let at = 20 + jsonBytes
    view.setUint32(at, this.#bytes, true)
    view.setUint32(at + 4, BIN_CHUNK, true)
    at += 8
    for (const part of this.#parts) {
      file.set(part, at)
      at += part.length
    }
    return file
  }
}

/** The JSON of a binary glTF file, and its buffer; why it is none. */
export function openGlb(file: Uint8Array): { readonly json: Record<string, unknown>; readonly bin: Uint8Array } | string {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  if (file.length < 20 || view.getUint32(0, true) !== MAGIC) return 'It is not a binary glTF file (.glb).'
  if (view.getUint32(4, true) !== 2) return `It is glTF of version ${view.getUint32(4, true)}; version 2 is read.`
  if (view.getUint32(8, true) > file.length) return 'It is cut short: it says that it is longer than it is.'
  let json: Record<string, unknown> | null = null
  let bin = new Uint8Array(0)
  for (let at = 12; at + 8 <= file.length; ) {
    const [bytes, type] = [view.getUint32(at, true), view.getUint32(at + 4, true)]
    at += 8
    if (at + bytes > file.length) return 'It is cut short: a part of it is longer than what is left.'
    const part = file.subarray(at, at + bytes)
    if (type === JSON_CHUNK && json === null) {
      try {
        const read: unknown = JSON.parse(new TextDecoder().decode(part))
        if (typeof read !== 'object' || read === null || Array.isArray(read)) return 'What it says of itself is no glTF.'
        json = read as Record<string, unknown>
      } catch {
        return 'What it says of itself can’t be read (its JSON is damaged).'
      }
    } else if (type === BIN_CHUNK) bin = part as Uint8Array<ArrayBuffer>
    at += bytes
  }
  return json === null ? 'It says nothing of itself (there is no JSON in it).' : { json, bin }
}
