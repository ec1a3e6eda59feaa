import { spawnSync } from 'node:child_process'
import { removeCluster, startCluster } from './cluster.mjs'
const [kind, ...rest] = process.argv.slice(2)
const cluster = await startCluster({ name: `zone-${process.pid}`, port: 54391, fast: true })
const args = kind === 'e2e' ? ['playwright', 'test', ...rest] : ['vitest', 'run', '--project', 'server', ...rest]
const { status } = spawnSync('npx', ['--no-install', ...args], { stdio: 'inherit', env: { ...process.env, RUBATO_TEST_DATABASE_URL: cluster.url } })
removeCluster(cluster)
process.exit(status ?? 1)
