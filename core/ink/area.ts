/** One byte a px, row by row from the top: 1 where the mask is. */
export interface Mask {
  readonly widthPx: number
  readonly heightPx: number
  readonly cells: Uint8Array
}

export type AreaRefusal = { readonly code: 'on-a-line' } | { readonly code: 'runs-out'; readonly xPx: number; readonly yPx: number }
export type AreaFound = { readonly ok: true; readonly mask: Mask } | { readonly ok: false; readonly refusal: AreaRefusal }

/**
 * The area around a px that lines enclose, gaps up to `gapPx` wide taken as closed. Lines are grown by half the gap, the
 * area is filled, grown back, and kept off the lines; then it goes `underPx` on beneath them, so that no light shows
 * between. Refused on a line, and where the area runs out of the raster: then (xPx, yPx) is where.
 */
export function enclosedArea(lines: Mask, xPx: number, yPx: number, gapPx: number, underPx: number): AreaFound {
  const { widthPx, heightPx } = lines
  const seed = Math.min(heightPx - 1, Math.max(0, Math.round(yPx))) * widthPx + Math.min(widthPx - 1, Math.max(0, Math.round(xPx)))
  if (lines.cells[seed] === 1) return { ok: false, refusal: { code: 'on-a-line' } }
  const reach = gapPx / 2
  const distance = reach > 0 ? distanceTo(lines) : null
  const barrier = distance === null ? lines.cells : within(distance, reach)
  // Nearer to a line than the gap reaches: begin from the nearest place that is not.
  const start = barrier[seed] === 1 ? nearestOpen(barrier, lines, seed, Math.ceil(reach) + 2) : seed
  if (start === null) return { ok: false, refusal: { code: 'on-a-line' } }
  const flooded = flood({ widthPx, heightPx, cells: barrier }, [start])
  const out = borderOf(flooded)
  if (out !== null) return { ok: false, refusal: { code: 'runs-out', ...out } }
  const grownBack = reach > 0 ? grow(flooded, reach + 0.01) : flooded
  const free = { ...grownBack, cells: grownBack.cells.map((cell, i) => (cell === 1 && lines.cells[i] === 0 ? 1 : 0)) }
  return { ok: true, mask: underPx > 0 ? under(free, lines, underPx) : free }
}

/**
 * What lines hold together: all that can't be reached from outside, gaps up to `gapPx` taken as closed, lines and all.
 * The raster needs a clear rim wider than half the gap.
 */
export function silhouetteArea(lines: Mask, gapPx: number): Mask {
  const { widthPx, heightPx } = lines
  const reach = gapPx / 2
  const distance = distanceTo(lines)
  const barrier = { widthPx, heightPx, cells: within(distance, reach) }
  const outside = flood(barrier, borderCells(widthPx, heightPx))
  const back = reach > 0 ? grow(outside, reach + 0.01) : outside
  return { widthPx, heightPx, cells: back.cells.map((cell, i) => (cell === 1 && lines.cells[i] === 0 ? 0 : 1)) }
}

/** How many px a mask has. */
export function areaOf(mask: Mask): number {
  let count = 0
  for (const cell of mask.cells) count += cell
  return count
}

/**
 * The silhouette at the smallest gap that holds the figure together: gaps grow by √2 from `leastPx` to `mostPx`, and the first
 * one that encloses nearly as much as the largest is taken. Small gaps leave the room between legs open.
 */
export function figureArea(lines: Mask, leastPx: number, mostPx: number): { readonly mask: Mask; readonly gapPx: number } {
  const ink = areaOf(lines)
  const tried: { readonly mask: Mask; readonly gapPx: number; readonly enclosed: number }[] = []
  for (let gapPx = leastPx; gapPx <= mostPx * 1.0001; gapPx *= Math.SQRT2) {
    const mask = silhouetteArea(lines, gapPx)
    tried.push({ mask, gapPx, enclosed: areaOf(mask) - ink })
  }
  const most = Math.max(...tried.map(({ enclosed }) => enclosed))
  return tried.find(({ enclosed }) => enclosed >= most * 0.75)!
}

function borderCells(widthPx: number, heightPx: number): number[] {
  const cells: number[] = []
  for (let x = 0; x < widthPx; x++) cells.push(x, (heightPx - 1) * widthPx + x)
  for (let y = 0; y < heightPx; y++) cells.push(y * widthPx, y * widthPx + widthPx - 1)
  return cells
}

function borderOf({ widthPx, heightPx, cells }: Mask): { readonly xPx: number; readonly yPx: number } | null {
  for (const cell of borderCells(widthPx, heightPx)) if (cells[cell] === 1) return { xPx: cell % widthPx, yPx: Math.floor(cell / widthPx) }
  return null
}

/** Everything that can be reached from the seeds without crossing the barrier, along rows and columns. */
function flood({ widthPx, heightPx, cells }: Mask, seeds: readonly number[]): Mask {
  const filled = new Uint8Array(cells.length)
  const stack: number[] = []
  for (const seed of seeds) if (cells[seed] === 0) stack.push(seed)
  while (stack.length > 0) {
    const at = stack.pop()!
    if (filled[at] === 1) continue
    const row = at - (at % widthPx)
    let left = at
    while (left > row && cells[left - 1] === 0 && filled[left - 1] === 0) left--
    let right = at
    while (right < row + widthPx - 1 && cells[right + 1] === 0 && filled[right + 1] === 0) right++
    for (let i = left; i <= right; i++) filled[i] = 1
    for (const beside of [-widthPx, widthPx]) {
      if (beside < 0 ? row === 0 : row >= widthPx * (heightPx - 1)) continue
      let inRun = false
      for (let i = left + beside; i <= right + beside; i++) {
        const open = cells[i] === 0 && filled[i] === 0
        if (open && !inRun) stack.push(i)
        inRun = open
      }
    }
  }
  return { widthPx, heightPx, cells: filled }
}

function nearestOpen(barrier: ArrayLike<number>, lines: Mask, seed: number, within: number): number | null {
  const { widthPx, heightPx, cells } = lines
  const [sx, sy] = [seed % widthPx, Math.floor(seed / widthPx)]
  let best: number | null = null
  let nearest = Infinity
  // Only along ways that no line crosses: else the other side of a thin line would be filled.
  const seen = new Map<number, number>([[seed, 0]])
  const queue = [seed]
  for (let head = 0; head < queue.length; head++) {
    const at = queue[head]!
    const [x, y] = [at % widthPx, Math.floor(at / widthPx)]
    const d = Math.hypot(x - sx, y - sy)
    if (barrier[at] === 0 && d < nearest) {
      nearest = d
      best = at
    }
    if (seen.get(at)! >= within * 2) continue
    for (const [nx, ny] of [[x - 1, y], [x + 1, y], [x, y - 1], [x, y + 1]] as const) {
      if (nx < 0 || ny < 0 || nx >= widthPx || ny >= heightPx) continue
      const next = ny * widthPx + nx
      if (cells[next] === 1 || seen.has(next)) continue
      seen.set(next, seen.get(at)! + 1)
      queue.push(next)
    }
  }
  return best
}

function within(distance: Float32Array, reach: number): Uint8Array {
  const cells = new Uint8Array(distance.length)
  for (let i = 0; i < cells.length; i++) cells[i] = distance[i]! <= reach ? 1 : 0
  return cells
}

function grow(mask: Mask, byPx: number): Mask {
  return { ...mask, cells: within(distanceTo(mask), byPx) }
}

/** The area and what of the lines lies within `byPx` of it. */
function under(area: Mask, lines: Mask, byPx: number): Mask {
  const distance = distanceTo(area)
  return { ...area, cells: area.cells.map((cell, i) => (cell === 1 || (lines.cells[i] === 1 && distance[i]! <= byPx) ? 1 : 0)) }
}

const FAR = 1e9

/** The distance of every px to the nearest one of a mask, px, exactly (Felzenszwalb and Huttenlocher, 2012). */
export function distanceTo({ widthPx, heightPx, cells }: Mask): Float32Array {
  const squares = new Float32Array(cells.length)
  for (let i = 0; i < cells.length; i++) squares[i] = cells[i] === 1 ? 0 : FAR
  const longest = Math.max(widthPx, heightPx)
  const line = new Float32Array(longest)
  const parabola = new Int32Array(longest)
  const edges = new Float32Array(longest + 1)
  const pass = (start: number, stride: number, length: number) => {
    for (let i = 0; i < length; i++) line[i] = squares[start + i * stride]!
    let last = 0
    parabola[0] = 0
    edges[0] = -Infinity
    edges[1] = Infinity
    for (let q = 1; q < length; q++) {
      const meets = (p: number) => (line[q]! + q * q - (line[p]! + p * p)) / (2 * q - 2 * p)
      let s = meets(parabola[last]!)
      while (s <= edges[last]!) s = meets(parabola[--last]!)
      last++
      parabola[last] = q
      edges[last] = s
      edges[last + 1] = Infinity
    }
    let at = 0
    for (let q = 0; q < length; q++) {
      while (edges[at + 1]! < q) at++
      const p = parabola[at]!
      squares[start + q * stride] = (q - p) * (q - p) + line[p]!
    }
  }
  for (let x = 0; x < widthPx; x++) pass(x, widthPx, heightPx)
  for (let y = 0; y < heightPx; y++) pass(y * widthPx, 1, widthPx)
  for (let i = 0; i < squares.length; i++) squares[i] = Math.sqrt(squares[i]!)
  return squares
}
