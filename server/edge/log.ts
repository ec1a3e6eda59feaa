/** A line of the log: JSON, one a line, on the standard output; troubles on the standard error as well. */
export function logLine(fields: { readonly level: 'info' | 'error'; readonly [field: string]: unknown }): void {
  const line = `${JSON.stringify({ at: new Date().toISOString(), ...fields })}\n`
  process.stdout.write(line)
  if (fields.level === 'error') process.stderr.write(line)
}

const WORDS = /^(api|projects|takes|drawings|tries|sets|set-users|edits|pictures|cover|restore|live|here|changes|known|health|sign-in|versions|archive|archives|compare|bring-back|uploads|parts|finish|sweep|duplicate|captions|unused|trash|sounds|shots|cut|cuts|conform|renders|files|again|work|frames|file)$/

/** A path without anything an artist or a browser put into it. */
export function routeOf(path: string): string {
  return path
    .split('?')[0]!
    .split('/')
    .map((part) => (part === '' || WORDS.test(part) ? part : ':id'))
    .join('/')
}
