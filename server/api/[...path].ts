import { defineEventHandler } from 'h3'
import { noSuchAddress } from '../services/refusals'

/** Nothing of the server's own is left to the page. */
export default defineEventHandler((event) => {
  throw noSuchAddress(event.method, event.path)
})
