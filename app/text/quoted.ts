/** A name in quotation marks, at most so many letters of it; one that has its own keeps just those. */
export function quoted(name: string, most = 60): string {
  const text = name.length > most ? `${name.slice(0, most)}…` : name
  return /^[“"«„‘']/.test(text) ? text : `“${text}”`
}
