import { build } from 'esbuild'
import { join } from 'node:path'
import { ROOT } from './shell.mjs'

/** One of the project's TypeScript entries as a script for a page or a worker, or with `platform` node for this process. */
export async function bundle(entry, format = 'iife', platform = 'browser') {
  const result = await build({ entryPoints: [join(ROOT, entry)], bundle: true, write: false, format, platform, target: 'es2022', logLevel: 'error' })
  return result.outputFiles[0].text
}
