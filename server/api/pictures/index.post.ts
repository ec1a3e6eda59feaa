import { defineEventHandler } from 'h3'
import { storePicture } from '../../services/pictures'

/** The body is the file itself; the bytes, not the declared type, say what it is. */
export default defineEventHandler((event) => storePicture(event.node.req))
