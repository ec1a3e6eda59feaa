/** Asks for files, by their endings or types. */
export function pickFiles(accept: readonly string[], take: (files: readonly File[]) => void): void {
  const input = document.createElement('input')
  input.type = 'file'
  input.accept = accept.join()
  input.onchange = () => take([...(input.files ?? [])])
  input.click()
}
