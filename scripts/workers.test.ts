import { readdirSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { workerFiles } from './workers.mjs'

interface Emitted {
  readonly fileName: string
  readonly source: string | Uint8Array
}

describe('workers of a build', () => {
  const plugin = workerFiles('/_nuxt/')
  const emit = async (environment: string) => {
    const files: Emitted[] = []
    await plugin.generateBundle.call({ environment: { name: environment }, emitFile: (file: Emitted) => void files.push(file) })
    return files
  }

  it('are named by their address where a source names their file, and nothing else is touched', () => {
    const { code } = plugin.transform("const worker = () => new Worker(new URL('../workers/area.worker.ts', import.meta.url), { type: 'module' })", '/app/clients/areaJobs.ts')!
    expect(code).toMatch(/^const worker = \(\) => new Worker\("\/_nuxt\/workers-[0-9a-f]{12}\/area\.worker\.js", \{ type: 'module' \}\)$/)
    expect(plugin.transform("const url = new URL('./mark.svg', import.meta.url)", '/app/x.ts')).toBeNull()
    expect(plugin.transform("// area.worker.ts", '/node_modules/x.js')).toBeNull()
  })

  it('are all there, each whole: what one names or loads is there too', async () => {
    const files = await emit('client')
    const names = new Set(files.map(({ fileName }) => `/${fileName}`))
    const folder = [...names][0]!.replace(/[^/]+$/, '')
    for (const name of readdirSync('app/workers').filter((each) => each.endsWith('.worker.ts'))) expect(names).toContain(`${folder}${name.replace(/\.ts$/, '.js')}`)
    for (const { fileName, source } of files) {
      if (!fileName.endsWith('.js')) continue
      const text = String(source)
      expect(text).not.toContain('.worker.ts')
      expect(text).not.toContain('process.env')
      // Other workers, fonts and parts that are loaded when they are wanted.
      for (const [, address] of text.matchAll(/["'`](\/_nuxt\/workers-[^"'`]+)["'`]/g)) expect(names).toContain(address)
      for (const [, part] of text.matchAll(/(?:from|import\()\s*["'`]\.\/([^"'`]+)["'`]/g)) expect(names).toContain(folder + part)
    }
    // The GPU's program is half of what these would read as the Desk opens, and wanted for turned levels only.
    for (const name of ['frames', 'thumb']) {
      const source = String(files.find(({ fileName }) => fileName.endsWith(`/${name}.worker.js`))!.source)
      const part = /import\(\s*["'`]\.\/([^"'`]+)["'`]/.exec(source)![1]!
      expect(source).not.toContain('THREE.WebGLRenderer')
      expect(String(files.find(({ fileName }) => fileName.endsWith(part))!.source)).toContain('THREE.WebGLRenderer')
    }
    expect(await emit('ssr')).toEqual([])
  })
})
