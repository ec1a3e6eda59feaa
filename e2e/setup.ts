import { startTestServer } from '../server/test/testServer'

/** One built server with the demo, for all browser tests. */
export default async function setup() {
  const server = await startTestServer({ RUBATO_SEED: 'demo' })
  process.env.RUBATO_E2E_ADDRESS = server.address
  process.env.RUBATO_E2E_DATABASE = server.databaseUrl
  process.env.RUBATO_E2E_STORAGE = server.storage
  return () => server.stop()
}
