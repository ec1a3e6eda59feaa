import { build } from 'esbuild'
import { readFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { createRequire } from 'node:module'
import { ROOT } from './shell.mjs'

/** `?url` imports as the files themselves: what is bundled here is served by nobody. */
const asData = {
  name: 'url',
  setup(made) {
    made.onResolve({ filter: /\?url$/ }, ({ path, resolveDir }) => {
      const bare = path.replace(/\?url$/, '')
      return { path: bare.startsWith('.') ? join(resolveDir, bare) : createRequire(join(ROOT, 'package.json')).resolve(bare), namespace: 'url' }
    })
    made.onLoad({ filter: /.*/, namespace: 'url' }, async ({ path }) => ({ contents: await readFile(path), loader: 'dataurl', resolveDir: dirname(path) }))
  },
}

/** One of the project's TypeScript entries as a script for a page or a worker, or with `platform` node for this process. */
export async function bundle(entry, format = 'iife', platform = 'browser') {
  const result = await build({ entryPoints: [join(ROOT, entry)], bundle: true, write: false, format, platform, target: 'es2022', logLevel: 'error', external: ['node:*'], alias: { '#shared': join(ROOT, 'shared'), '~': join(ROOT, 'app') }, plugins: [asData] })
  return result.outputFiles[0].text
}

/** The program that opens files, for Node. Only what is not JavaScript stays outside. */
export async function bundleFileJob(out) {
  await build({ entryPoints: [join(ROOT, 'server/jobs/fileJob.ts')], bundle: true, outfile: out, format: 'esm', platform: 'node', target: 'node20', logLevel: 'error', external: ['sharp'], alias: { '#shared': join(ROOT, 'shared') }, banner: { js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);" } })
}
