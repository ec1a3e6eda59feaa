import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it, onTestFinished } from 'vitest'
import { freePort, makeDatabase } from './testServer'

const BUILD = '.nuxt/dev-test'

it('serves from the sources: the database is made ready, and the page and its program are had', async () => {
  const [port, database] = [await freePort(), await makeDatabase()]
  const storage = mkdtempSync(join(tmpdir(), 'rubato-dev-'))
  const said: string[] = []
  const start = spawn('./start', ['--dev', '--no-worker', '--database-url', database.url], { env: { ...process.env, RUBATO_PORT: String(port), RUBATO_STORAGE_DIR: storage, RUBATO_BUILD_DIR: BUILD } })
  for (const stream of [start.stdout, start.stderr]) stream.on('data', (text) => said.push(String(text)))
  const ended = once(start, 'exit')
  onTestFinished(async () => {
    start.kill('SIGINT')
    await ended
    await database.drop()
    for (const folder of [storage, BUILD]) rmSync(folder, { recursive: true, force: true })
  })
  const address = `http://127.0.0.1:${port}`
  const health = () => fetch(`${address}/api/health`).then((answer) => answer.json()).catch((error: Error) => error.message)
  await expect.poll(health, { timeout: 150_000, interval: 500 }).toMatchObject({ ok: true })
  const page = await (await fetch(address)).text()
  const program = /<script[^>]+src="(\/_nuxt\/[^"]+)"/.exec(page)?.[1]
  expect(program, `${page.slice(0, 400)}\n${said.join('').slice(-2000)}`).toBeDefined()
  const answer = await fetch(address + program)
  expect([answer.status, answer.headers.get('content-type')]).toEqual([200, expect.stringContaining('javascript')])
  expect(((await (await fetch(`${address}/api/projects`)).json()) as { project: { id: string } }[]).map(({ project }) => project.id)).toEqual(['salt-lantern'])
})
