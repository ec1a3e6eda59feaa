import { randomUUID } from 'node:crypto'
import { firstPicture } from './benchPage.mjs'

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]

/** A film of 40 sets beside one without; and the set that a hundred shots stand in beside one that a single shot does. */
export async function measureSets({ browser, address, ask, films, post, hold, size }) {
  const ids = { without: await films.large(), with: await films.sets() }
  const open = (id) => firstPicture(browser, `${address}/film/${id}`)
  const times = { without: [], with: [] }
  for (let round = 0; round < size(6, 1); round++) {
    for (const each of ['without', 'with']) {
      const { context, ms } = await open(ids[each])
      await context.close()
      if (round >= size(1, 0)) times[each].push(ms)
    }
  }
  hold('first picture of a shot, 1,000-shot film of 40 sets / without', median(times.with) / median(times.without), 1.2, `medians of ${times.with.length}: ${median(times.with).toFixed(0)} / ${median(times.without).toFixed(0)} ms`)

  const film = ids.with
  const sets = { shared: 'set0', single: 'set1' }
  const now = {}
  for (const [each, id] of Object.entries(sets)) {
    const [{ body, revision }] = await ask(`/api/projects/${film}/sets?ids=${id}`)
    now[each] = { piece: body.pieces.k1, revision }
  }
  const rename = async (each, name) => {
    const { piece: before, revision } = now[each]
    const after = { ...before, name }
    const begun = performance.now()
    await post(`/api/projects/${film}/edits`, { base: { [`set:${sets[each]}`]: revision }, changes: [{ id: randomUUID(), label: 'name', edits: [{ kind: 'x', unit: { kind: 'set', id: sets[each] }, changes: { pieces: { k1: { before, after } } } }] }] })
    now[each] = { piece: after, revision: revision + 1 }
    return performance.now() - begun
  }
  const served = { shared: [], single: [] }
  for (let n = 1; n <= size(220, 22); n++) {
    for (const each of ['shared', 'single']) {
      const took = await rename(each, `Piece ${n}`)
      if (n > 20) served[each].push(took)
    }
  }
  hold('a piece changed, of a set of 100 shots / of one, acknowledged', median(served.shared) / median(served.single), 1.2, `medians of ${served.shared.length}: ${median(served.shared).toFixed(2)} / ${median(served.single).toFixed(2)} ms`)

  // Another window, with the set open, shows the name in its rack.
  const { page, context } = await open(film)
  await page.waitForTimeout(size(3000, 500))
  await page.getByRole('button', { name: 'Open the set Walk' }).click()
  const name = page.locator('[data-level="walk~k1"] .words')
  await name.waitFor()
  const shown = []
  for (let n = 0; n <= size(20, 2); n++) {
    const wanted = `Seen ${n}`
    const seen = page.evaluate(
      (words) =>
        new Promise((resolve) => {
          const timer = setInterval(() => {
            if (!document.querySelector('[data-level="walk~k1"] .words').textContent.includes(words)) return
            clearInterval(timer)
            resolve(Date.now())
          }, 2)
        }),
      wanted,
    )
    const begun = Date.now()
    await rename('shared', wanted)
    if (n > 0) shown.push((await seen) - begun)
    else await seen
  }
  await context.close()
  hold('a piece changed shows in another window, ms', median(shown), 300, `median of ${shown.length}, ${Math.min(...shown)} to ${Math.max(...shown)}`)
}
