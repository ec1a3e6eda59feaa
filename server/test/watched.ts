import { createServer, type AddressInfo } from 'node:net'
import { fileURLToPath } from 'node:url'
import { startTestServer, type TestServer } from './testServer'

export interface WatchedServer extends TestServer {
  /** How long the server's loop was held at most since this was last asked, ms. */
  heldMs(): Promise<number>
}

/** A test server whose event loop is watched. */
export async function startWatchedServer(env: Record<string, string> = {}): Promise<WatchedServer> {
  const probe = createServer()
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve))
  const { port } = probe.address() as AddressInfo
  await new Promise((resolve) => probe.close(resolve))
  const server = await startTestServer({ ...env, NODE_OPTIONS: `--import=${fileURLToPath(new URL('./loopWatch.mjs', import.meta.url))}`, RUBATO_TEST_LOOP_PORT: String(port) })
  return Object.assign(server, { heldMs: async () => ((await (await fetch(`http://127.0.0.1:${port}`)).json()) as { heldMs: number }).heldMs })
}
