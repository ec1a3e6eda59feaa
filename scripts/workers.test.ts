import { describe, expect, it } from 'vitest'
import { workerFiles } from './workers.mjs'

interface Emitted {
  readonly fileName: string
  readonly source: string | Uint8Array
}

describe('workers of a build', () => {
  const plugin = workerFiles('/_nuxt/')

  it('are named by their address where a source names their file, and nothing else is touched', () => {
    const { code } = plugin.transform("const worker = () => new Worker(new URL('../workers/area.worker.ts', import.meta.url), { type: 'module' })", '/app/clients/areaJobs.ts')!
    expect(code).toMatch(/^const worker = \(\) => new Worker\("\/_nuxt\/workers-[0-9a-f]{12}\/area\.worker\.js", \{ type: 'module' \}\)$/)
    expect(plugin.transform("const url = new URL('./mark.svg', import.meta.url)", '/app/x.ts')).toBeNull()
    expect(plugin.transform("// area.worker.ts", '/node_modules/x.js')).toBeNull()
  })

  it('are made for the page alone', async () => {
    const files: Emitted[] = []
    await plugin.generateBundle.call({ environment: { name: 'ssr' }, emitFile: (file: Emitted) => void files.push(file) })
    expect(files).toEqual([])
  })
})
