/**
 * A stroke's points without those that lie within `toleranceFw` of the line between their neighbours and whose pressure
 * is within `pressureTolerance` of it (Ramer, Douglas and Peucker). No two that stay are farther apart than `gapFw`
 * where there were points between, since an inked outline rounds corners by what lies beside them. Ends stay exactly.
 */
export function simplifyStroke(points: readonly number[], toleranceFw: number, gapFw: number, pressureTolerance = 0.04): number[] {
  const count = Math.floor(points.length / 3)
  if (count <= 2) return points.slice(0, count * 3)
  const keep = new Uint8Array(count)
  keep[0] = keep[count - 1] = 1
  const stack: [number, number][] = [[0, count - 1]]
  while (stack.length > 0) {
    const [from, to] = stack.pop()!
    if (to - from < 2) continue
    const [ax, ay, ap] = [points[from * 3]!, points[from * 3 + 1]!, points[from * 3 + 2]!]
    const [bx, by, bp] = [points[to * 3]!, points[to * 3 + 1]!, points[to * 3 + 2]!]
    let worst = 0
    let at = -1
    for (let i = from + 1; i < to; i++) {
      const [x, y, p] = [points[i * 3]!, points[i * 3 + 1]!, points[i * 3 + 2]!]
      const { distance, t } = toSegment(x, y, ax, ay, bx, by)
      const off = Math.max(distance / toleranceFw, Math.abs(p - (ap + (bp - ap) * t)) / pressureTolerance)
      if (off > worst) {
        worst = off
        at = i
      }
    }
    if (worst > 1) {
      keep[at] = 1
      stack.push([from, at], [at, to])
    } else if (Math.hypot(bx - ax, by - ay) > gapFw) {
      const middle = (from + to) >> 1
      keep[middle] = 1
      stack.push([from, middle], [middle, to])
    }
  }
  const out: number[] = []
  for (let i = 0; i < count; i++) if (keep[i] === 1) out.push(points[i * 3]!, points[i * 3 + 1]!, points[i * 3 + 2]!)
  return out
}

/** A closed outline (x, y, x, y …) without the points that lie within `tolerance` of the line between their neighbours. */
export function simplifyOutline(outline: readonly number[], tolerance: number): number[] {
  const count = Math.floor(outline.length / 2)
  if (count <= 4) return outline.slice(0, count * 2)
  // Cut where it is farthest from its first point, so that both halves have ends that stay.
  let far = 0
  let distance = -1
  for (let i = 1; i < count; i++) {
    const d = Math.hypot(outline[i * 2]! - outline[0]!, outline[i * 2 + 1]! - outline[1]!)
    if (d > distance) {
      distance = d
      far = i
    }
  }
  const open = (from: number, to: number) => {
    const triples: number[] = []
    for (let i = from; i <= to; i++) triples.push(outline[(i % count) * 2]!, outline[(i % count) * 2 + 1]!, 0)
    return simplifyStroke(triples, tolerance, Infinity)
  }
  const out: number[] = []
  for (const part of [open(0, far), open(far, count)]) for (let i = 0; i + 5 < part.length; i += 3) out.push(part[i]!, part[i + 1]!)
  return out
}

function toSegment(x: number, y: number, ax: number, ay: number, bx: number, by: number): { readonly distance: number; readonly t: number } {
  const [dx, dy] = [bx - ax, by - ay]
  const square = dx * dx + dy * dy
  const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / square))
  return { distance: Math.hypot(x - ax - dx * t, y - ay - dy * t), t }
}
