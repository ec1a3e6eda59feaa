/** Collects the page's tasks of more than 50 ms from now on. */
export const watchTasks = (page) =>
  page.evaluate(() => {
    window.longTasks = []
    window.taskWatch?.disconnect()
    window.taskWatch = new PerformanceObserver((list) => window.longTasks.push(...list.getEntries().map((entry) => entry.duration)))
    window.taskWatch.observe({ entryTypes: ['longtask'] })
  })

/** The longest since then, ms, and how many there were. */
export async function longest(page) {
  const tasks = await page.evaluate(() => window.longTasks)
  return { most: Math.max(0, ...tasks), count: tasks.length }
}
