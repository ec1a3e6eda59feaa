import { spawnSync } from 'node:child_process'
import { startCluster, removeCluster } from './cluster.mjs'
const cluster = await startCluster({ name: `test-${process.pid}`, port: 54_380, fast: true })
spawnSync('npx', ['--no-install', 'playwright', 'test', ...process.argv.slice(2), '--reporter=list'], { stdio: 'inherit', env: { ...process.env, RUBATO_TEST_DATABASE_URL: cluster.url } })
removeCluster(cluster)
