import fc from 'fast-check'

// A law that fails says its seed at once: looking for the smallest case of two films can take longer than the test has.
// RUBATO_SHRINK=1 looks for it.
fc.configureGlobal({ endOnFailure: process.env.RUBATO_SHRINK === undefined })
