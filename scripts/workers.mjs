import { createRequire } from 'node:module'
import { readFile, readdir } from 'node:fs/promises'
import { basename, extname, join } from 'node:path'
import { rolldown } from 'rolldown'
import { sourcesHash } from './build.mjs'
import { ROOT } from './shell.mjs'

const FOLDER = join(ROOT, 'app', 'workers')
/** How a source names a worker: `new URL('../workers/x.worker.ts', import.meta.url)`. */
const NAMED = /new URL\(\s*'(?:[^']*\/)?([^'/]+\.worker)\.ts',\s*import\.meta\.url\s*\)/g
const FILE = '\0file:'
const require = createRequire(join(ROOT, 'package.json'))

/**
 * Bundles the workers for Vite, each whole in a file of its own. Vite would do it with the bundler that makes the page, which
 * keeps all it knows of every worker: most of a build's time and memory went there.
 * `base` is where the application's files are served: `/_nuxt/`.
 */
export function workerFiles(base) {
  // Whatever changes, changes all their addresses: a name that is kept for a year is never another file.
  const folder = `${base}workers-${sourcesHash().slice(0, 12)}/`
  const withAddresses = (code) => code.replace(NAMED, (_, name) => JSON.stringify(`${folder}${name}.js`))
  const files = new Map()

  /** `?url` imports as files beside the workers. */
  const inWorker = {
    name: 'worker-files',
    resolveId: (id) => (id.endsWith('?url') ? `${FILE}${require.resolve(id.slice(0, -'?url'.length))}` : null),
    async load(id) {
      if (!id.startsWith(FILE)) return null
      const path = id.slice(FILE.length)
      files.set(basename(path), await readFile(path))
      return `export default ${JSON.stringify(folder + basename(path))}`
    },
    transform: (code, id) => (extname(id) === '.ts' && code.includes('.worker.ts') ? { code: withAddresses(code) } : null),
  }
  async function bundle(name) {
    const made = await rolldown({ input: { [name]: join(FOLDER, `${name}.ts`) }, platform: 'browser', resolve: { alias: { '#shared': join(ROOT, 'shared'), '~': join(ROOT, 'app') } }, external: [/^node:/], plugins: [inWorker], checks: { ineffectiveDynamicImport: false } })
    const { output } = await made.generate({ format: 'esm', minify: true, entryFileNames: '[name].js', chunkFileNames: `${name}-[hash].js` })
    for (const { fileName, code } of output) files.set(fileName, code)
    await made.close()
  }

  return {
    name: 'rubato-workers',
    apply: 'build',
    enforce: 'pre',
    transform: (code, id) => (code.includes('.worker.ts') && !id.includes('node_modules') ? { code: withAddresses(code), map: null } : null),
    async generateBundle() {
      if (this.environment.name !== 'client') return
      for (const file of await readdir(FOLDER)) if (file.endsWith('.worker.ts')) await bundle(file.slice(0, -'.ts'.length))
      for (const [name, source] of files) this.emitFile({ type: 'asset', fileName: `${folder.slice(1)}${name}`, source })
    },
  }
}
