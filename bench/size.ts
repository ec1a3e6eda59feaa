/** What a whole run takes, and what is enough to see that it runs. */
export const size = (whole: number, least: number): number => (process.argv.includes('--small') ? least : whole)
