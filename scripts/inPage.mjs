/**
 * Sets what the browser keeps of an artist's ways (by key; null takes it away), as another window of it would: the page hears of it.
 * @param {import('@playwright/test').Page} page
 * @param {Readonly<Record<string, string | null>>} ways
 */
export const setWays = (page, ways) =>
  page.evaluate((entries) => {
    for (const [key, newValue] of entries) {
      if (localStorage.getItem(key) === newValue) continue
      if (newValue === null) localStorage.removeItem(key)
      else localStorage.setItem(key, newValue)
      window.dispatchEvent(new StorageEvent('storage', { key, newValue, storageArea: localStorage }))
    }
  }, Object.entries(ways))

/**
 * Goes on to an address within the application, as by a link.
 * @param {import('@playwright/test').Page} page
 * @param {string} address
 */
export async function goOn(page, address) {
  const { pathname, search } = new URL(address)
  await page.evaluate((path) => window.useNuxtApp().$router.push(path), pathname + search)
}
