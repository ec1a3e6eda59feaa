import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible'

/** Requests a minute from one address; enough for several windows that play, draw and load at once. */
const PER_MINUTE = Number(process.env.RUBATO_REQUESTS_PER_MINUTE || 12_000)

/** Counts callers minute by minute, each server for itself: asking the database would cost more than what is asked. */
export function createLimiter(perMinute: number = PER_MINUTE) {
  const limiter = new RateLimiterMemory({ points: perMinute, duration: 60 })
  return {
    /** The seconds to wait, or 0. */
    async take(caller: string): Promise<number> {
      try {
        await limiter.consume(caller)
        return 0
      } catch (refused) {
        if (!(refused instanceof RateLimiterRes)) throw refused
        return Math.max(1, Math.ceil(refused.msBeforeNext / 1000))
      }
    },
  }
}
