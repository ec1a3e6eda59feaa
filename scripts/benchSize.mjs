/** Each once, on its smallest size: to see that they run, not how fast. */
export const SMALL = process.argv.includes('--small')
/** What a whole run takes, and what is enough to see that it runs. */
export const size = (whole, least) => (SMALL ? least : whole)
