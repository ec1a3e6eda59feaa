import { defineEventHandler } from 'h3'
import { refuse } from '../services/refusals'

/** Nothing of the server's own is left to the page. */
export default defineEventHandler((event) => {
  throw refuse(404, 'no-such-address', `The server has nothing at ${event.method} ${event.path.split('?')[0]!.slice(0, 100)}.`)
})
