import { readFileSync } from 'node:fs'

/** A process's memory in MB, without the pages that it shares with others. */
function memoryOf(pid) {
  try {
    const text = readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8')
    return (Number(/^Private_Clean:\s+(\d+)/m.exec(text)[1]) + Number(/^Private_Dirty:\s+(\d+)/m.exec(text)[1])) / 1024
  } catch {
    const text = readFileSync(`/proc/${pid}/status`, 'utf8')
    return (Number(/VmRSS:\s+(\d+)/.exec(text)[1]) - Number(/RssFile:\s+(\d+)/.exec(text)?.[1] ?? 0)) / 1024
  }
}

/** The memory of the browser's largest page, MB. */
export async function largestRenderer(browser) {
  const session = await browser.newBrowserCDPSession()
  const { processInfo } = await session.send('SystemInfo.getProcessInfo')
  await session.detach()
  return Math.max(...processInfo.filter((each) => each.type === 'renderer').map((each) => memoryOf(each.id)))
}
