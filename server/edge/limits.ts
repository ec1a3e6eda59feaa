/** Requests a minute from one address; enough for several windows that play, draw and load at once. */
const PER_MINUTE = Number(process.env.RUBATO_REQUESTS_PER_MINUTE || 12_000)
const REMEMBERED = 10_000

interface Bucket {
  left: number
  at: number
}

/** A bucket for each caller that fills evenly; `take` gives the seconds to wait, or 0. */
export function createLimiter(perMinute: number = PER_MINUTE, now: () => number = () => performance.now()) {
  const buckets = new Map<string, Bucket>()
  const perMs = perMinute / 60_000
  return {
    take(caller: string): number {
      const at = now()
      const bucket = buckets.get(caller) ?? { left: perMinute, at }
      bucket.left = Math.min(perMinute, bucket.left + (at - bucket.at) * perMs)
      bucket.at = at
      // The one not heard of for longest goes first; a full bucket is worth nothing.
      buckets.delete(caller)
      buckets.set(caller, bucket)
      if (buckets.size > REMEMBERED) buckets.delete(buckets.keys().next().value!)
      if (bucket.left < 1) return Math.ceil((1 - bucket.left) / perMs / 1000)
      bucket.left -= 1
      return 0
    },
  }
}
