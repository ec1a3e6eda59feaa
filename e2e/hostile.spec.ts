import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { exportAs } from './exporting'
import { address, Desk, expect, json, makeFilm, test } from './desk'

/** Seeded, so that what is found is found again; a thousand with `./test hostile`. */
const FILES = Number(process.env.RUBATO_HOSTILE_FILES || 8)
const SEED = Number(process.env.RUBATO_HOSTILE_SEED || 1)
/** Those before are made and not dropped. */
const FROM = Number(process.env.RUBATO_HOSTILE_FROM || 0)

/** Marsaglia's xorshift. */
function dice(seed: number) {
  let state = seed | 1
  return (most: number) => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) % most
  }
}
interface Hostile {
  readonly name: string
  readonly bytes: Buffer
}
const NUMBERS = ['1e308', '-1e308', '9007199254740993', '-1', '0', '1e-320', '"12"', 'null', '[]', '{}', '1e400']

/** A file with something wrong: cut short, bytes changed, nested deep, huge numbers, wrong rates, loops, things that lie elsewhere. */
function spoil(name: string, whole: Buffer, roll: (most: number) => number): Hostile {
  const text = whole.toString('latin1')
  switch (roll(8)) {
    case 0:
      return { name, bytes: whole.subarray(0, roll(whole.length)) }
    case 1: {
      const bytes = Buffer.from(whole)
      for (let i = 0; i < 1 + roll(20); i++) bytes[roll(bytes.length)] = roll(256)
      return { name, bytes }
    }
    case 2: {
      const at = roll(text.length)
      return { name, bytes: Buffer.from(text.slice(0, at) + '['.repeat(1000 + roll(200_000)) + text.slice(at), 'latin1') }
    }
    case 3: {
      const numbers = [...text.matchAll(/-?\d+(\.\d+)?/g)]
      const found = numbers[roll(numbers.length)]!
      return { name, bytes: Buffer.from(text.slice(0, found.index) + NUMBERS[roll(NUMBERS.length)]! + text.slice(found.index + found[0].length), 'latin1') }
    }
    case 4:
      return { name, bytes: Buffer.from(text.replaceAll(/"rate": ?[\d.]+/g, () => `"rate":${NUMBERS[roll(NUMBERS.length)]!}`).replaceAll(/FCM: [A-Z -]+/g, 'FCM: SIDEWAYS').replaceAll(/\d\d:\d\d:\d\d[:;]\d\d/g, () => `${roll(99)}:${roll(99)}:${roll(99)}:${roll(99)}`), 'latin1') }
    case 5:
      return { name, bytes: Buffer.from(text.replace('"children":[', `"children":[${roll(9) < 3 ? '0' : '{"children":['}`).replace(/"nodes":\[/, '"nodes":[{"children":[0]},').replace(/"buffers":\[/, '"buffers":[{"uri":"http://127.0.0.1:1/x.bin","byteLength":4},'), 'latin1') }
    case 6:
      return { name, bytes: Buffer.concat([whole, whole.subarray(roll(whole.length)), Buffer.alloc(roll(5000))]) }
    default:
      return { name, bytes: Buffer.from(Array.from({ length: 1 + roll(4000) }, () => roll(256))) }
  }
}
const drop = (page: Page, { name, bytes }: Hostile) =>
  page.evaluate(
    ([called, text]) => {
      const transfer = new DataTransfer()
      transfer.items.add(new File([Uint8Array.from(atob(text!), (letter) => letter.charCodeAt(0))], called!))
      window.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }))
    },
    [name, bytes.toString('base64')] as const,
  )

test(`${FILES} hostile files are each refused in words or shown as what they are, and change nothing`, async ({ page }) => {
  test.setTimeout(120_000 + FILES * 3000)
  const film = await makeFilm({ panels: [24, 24], framings: [{ frame: 0, pose: {} }, { frame: 20, pose: { x: 0.2 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const { path } = await exportAs(page, { format: 'Set and cameras in 3D (glTF, .glb)' })
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).first().click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
  const cut = async (as: string) => Buffer.from(await (await fetch(`${address()}/api/projects/${film.projectId}/cut?as=${as}&nested=1`)).arrayBuffer())
  const wholes = [['a.otio', await cut('otio')], ['a.edl', await cut('edl')], ['a.glb', readFileSync(path)]] as const
  const state = async () => JSON.stringify([await json(`/api/projects/${film.projectId}`), await json(`/api/projects/${film.projectId}/takes?ids=${film.takeId}`)])
  const before = await state()
  const roll = dice(SEED)
  const said: Record<string, number> = {}
  for (let i = 0; i < FILES; i++) {
    const [name, whole] = wholes[i % wholes.length]!
    const file = spoil(name, whole, roll)
    if (i < FROM) continue
    await drop(page, file)
    const dialog = page.getByTestId(name.endsWith('.glb') ? 'scene-in' : 'conform')
    const refused = dialog.getByRole('alert')
    const shown = name.endsWith('.glb') ? dialog.getByTestId('scene-outcome').filter({ hasNotText: 'Working out' }) : dialog.getByTestId('cut-strips').or(dialog.getByText('cut just so already'))
    await expect(refused.or(shown).first(), `file ${i} of seed ${SEED}`).toBeVisible({ timeout: 30_000 })
    if (await refused.isVisible()) {
      const words = await refused.innerText()
      expect(words.length, `file ${i} of seed ${SEED}: ${words}`).toBeGreaterThan(20)
      expect(words, `file ${i} of seed ${SEED}`).not.toMatch(/undefined|NaN|\[object|TypeError|RangeError|is not a function|stack/i)
      said.refused = (said.refused ?? 0) + 1
    } else said.shown = (said.shown ?? 0) + 1
    await dialog.getByRole('button', { name: 'Leave it' }).or(dialog.locator('.actions').getByRole('button', { name: 'Close' })).click()
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
  expect(await state()).toBe(before)
  await expect(page.getByRole('button', { name: /^Undo / })).toHaveCount(0)
  console.log(`${FILES} hostile files: ${JSON.stringify(said)}`)
  expect(said.refused ?? 0).toBeGreaterThan((FILES - FROM) / 2)
})
