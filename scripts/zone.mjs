import { spawnSync } from 'node:child_process'
const { startCluster, removeCluster } = await import('/work/main/scripts/cluster.mjs')
const cluster = await startCluster({ name: 'one', port: 54391, fast: true })
const r = spawnSync(process.argv[2], process.argv.slice(3), { cwd: '/work/main', stdio: 'inherit', env: { ...process.env, RUBATO_TEST_DATABASE_URL: cluster.url } })
removeCluster(cluster); process.exit(r.status)
