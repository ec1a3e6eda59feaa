import { readFileSync } from 'node:fs'
import { validateBytes } from 'gltf-validator'
import { exportAs } from './exporting'
import { address, Desk, expect, makeFilm, test } from './desk'

const ZOOM = [
  { frame: 0, pose: { x: -0.2 } },
  { frame: 23, pose: { x: 0.2, focalLengthMm: 85 } },
]

test('a shot’s set and cameras go out in 3D, whole by the format’s own validator, and the camera frame by frame as tables', async ({ page }) => {
  const film = await makeFilm({ panels: [12, 12], framings: ZOOM, rate: { numerator: 24000, denominator: 1001 } })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const scene = await exportAs(page, { format: 'Set and cameras in 3D (glTF, .glb)' })
  expect(scene.name).toBe('Shapes-010.glb')
  const { info, issues } = await validateBytes(new Uint8Array(readFileSync(scene.path)))
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  expect(info).toMatchObject({ animationCount: 1, materialCount: 2, hasTextures: true, totalTriangleCount: 4 })
  await expect(page.getByTestId('export-done')).toContainText('Shapes-010.glb')
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).first().click()

  const table = await exportAs(page, { format: 'Camera, frame by frame (CSV)', what: 'Whole film' })
  const rows = readFileSync(table.path, 'utf8').trim().split('\r\n')
  expect([table.name, rows.length]).toEqual(['Shapes-010.csv', 25])
  expect(rows[0]).toBe('camera,frame,timecode,time (s),live,x (fw),y (fw),depth (fw),x (px),y (px),depth (px),pan (degrees),tilt (degrees),roll (degrees),lens (mm),field across (degrees)')
  expect(rows[24]!.split(',').slice(0, 7)).toEqual(['A', '23', '00:00:00:23', '0.959292', '1', '0.2', '0'])
  expect(Number(rows[24]!.split(',')[14])).toBe(85)
})

test('a scene comes in again: its camera as few framings, nothing else where nothing moved, and another’s file is refused in words', async ({ page }) => {
  const film = await makeFilm({ panels: [24, 24], framings: [...ZOOM, { frame: 40, pose: { x: 0.1, y: 0.1, rollDegrees: 10 } }] })
  const desk = new Desk(page)
  await desk.open(film.projectId)
  const scene = await exportAs(page, { format: 'Set and cameras in 3D (glTF, .glb)' })
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).first().click()
  const bring = async (path: string) => {
    const chooser = page.waitForEvent('filechooser')
    await page.keyboard.press('Control+k')
    await page.getByLabel('Search commands and shortcuts').fill('3D scene')
    await page.getByRole('option', { name: /3D scene’s camera/ }).click()
    await (await chooser).setFiles(path)
  }
  await bring(scene.path)
  const outcome = page.getByTestId('scene-outcome')
  await expect(outcome).toContainText('framings, off by')
  await expect(outcome).toContainText('no level has moved')
  await page.getByRole('combobox', { name: 'becomes' }).click()
  await page.getByRole('option', { name: 'a new camera' }).click()
  await expect(outcome).toContainText('framings, off by')
  await page.getByRole('button', { name: 'Take it in' }).click()
  await expect(page.getByRole('button', { name: 'Undo take Shapes 010 in' })).toBeVisible()
  await desk.savedNow()
  const [{ body }] = (await (await fetch(`${address()}/api/projects/${film.projectId}/takes?ids=${film.takeId}`)).json()) as [{ body: { cameras: Record<string, { letter: string }>; framings: Record<string, { cameraId: string }> } }]
  expect(Object.values(body.cameras).map(({ letter }) => letter).sort()).toEqual(['A', 'B'])
  await page.keyboard.press('Control+z')

  await bring(import.meta.filename)
  await expect(page.getByRole('alert')).toContainText('not a binary glTF file')
})
