import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

const BUILT = '.output/public/_nuxt'

describe('the workers that were built', () => {
  const folders = readdirSync(BUILT).filter((name) => name.startsWith('workers-'))
  const names = readdirSync(join(BUILT, folders[0]!))
  const source = (name: string) => readFileSync(join(BUILT, folders[0]!, name), 'utf8')

  it('are all there, each whole: what one names or loads is there too', () => {
    expect(folders).toHaveLength(1)
    const addresses = names.map((name) => `/_nuxt/${folders[0]!}/${name}`)
    expect(names).toEqual(expect.arrayContaining(readdirSync('app/workers').flatMap((name) => (name.endsWith('.worker.ts') ? [name.replace(/\.ts$/, '.js')] : []))))
    for (const name of names.filter((each) => each.endsWith('.js'))) {
      const text = source(name)
      expect(text).not.toContain('.worker.ts')
      expect(text).not.toContain('process.env')
      // Other workers, fonts and parts that are loaded when they are wanted.
      for (const [, address] of text.matchAll(/["'`](\/_nuxt\/workers-[^"'`]+)["'`]/g)) expect(addresses).toContain(address)
      for (const [, part] of text.matchAll(/(?:from|import\()\s*["'`]\.\/([^"'`]+)["'`]/g)) expect(names).toContain(part)
    }
  })

  it('leave the GPU’s program, half of what these would read as the Desk opens, for turned levels', () => {
    for (const name of ['frames', 'thumb']) {
      const text = source(`${name}.worker.js`)
      expect(text).not.toContain('THREE.WebGLRenderer')
      expect(source(/import\(\s*["'`]\.\/([^"'`]+)["'`]/.exec(text)![1]!)).toContain('THREE.WebGLRenderer')
    }
  })
})
