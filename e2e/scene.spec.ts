import { readFileSync } from 'node:fs'
import { validateBytes } from 'gltf-validator'
import { exportAs } from './exporting'
import { Desk, expect, makeFilm, test } from './desk'

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
