/**
 * A page that is spoken to and not watched: the test tool's own pages keep a record of every request with its body, which would be
 * counted as the page's memory. `before` is run in it before anything of its own.
 */
export async function openBarePage(browser, url, before = () => undefined) {
  const cdp = await browser.newBrowserCDPSession()
  const { browserContextId } = await cdp.send('Target.createBrowserContext')
  const { targetId } = await cdp.send('Target.createTarget', { url: 'about:blank', browserContextId, width: 1280, height: 800 })
  const { sessionId } = await cdp.send('Target.attachToTarget', { targetId, flatten: false })
  const waiting = new Map()
  let number = 0
  cdp.on('Target.receivedMessageFromTarget', ({ message, sessionId: from }) => {
    if (from !== sessionId) return
    const { id, result, error } = JSON.parse(message)
    const wait = waiting.get(id)
    waiting.delete(id)
    if (error) wait?.reject(new Error(error.message))
    else wait?.resolve(result)
  })
  const send = (method, params = {}) =>
    new Promise((resolve, reject) => {
      waiting.set(++number, { resolve, reject })
      cdp.send('Target.sendMessageToTarget', { sessionId, message: JSON.stringify({ id: number, method, params }) }).catch(reject)
    })
  await send('Page.enable')
  await send('Page.addScriptToEvaluateOnNewDocument', { source: `(${before})()` })
  await send('Page.navigate', { url })
  const evaluate = async (work, ...args) => {
    const { result, exceptionDetails } = await send('Runtime.evaluate', { expression: `(${work})(...${JSON.stringify(args)})`, awaitPromise: true, returnByValue: true, userGesture: true })
    if (exceptionDetails) throw new Error(exceptionDetails.exception?.description ?? exceptionDetails.text)
    return result.value
  }
  return {
    evaluate,
    /** Until it gives something; the page may still be on its way. */
    async until(work, args, what, withinMs = 120_000) {
      for (const end = performance.now() + withinMs; ; await new Promise((resolve) => setTimeout(resolve, 100))) {
        const found = await evaluate(work, ...args).catch(() => null)
        if (found) return found
        if (performance.now() > end) throw new Error(`waited too long for ${what}`)
      }
    },
    async close() {
      await cdp.send('Target.closeTarget', { targetId }).catch(() => undefined)
      await cdp.send('Target.disposeBrowserContext', { browserContextId }).catch(() => undefined)
      await cdp.detach()
    },
  }
}
