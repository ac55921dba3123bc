import { spawn } from 'node:child_process';
import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { migrateDatabase } from '@/db/migrate';
import { buildApp } from './buildApp';
import { projectRoot } from './bundle';
import { home, paths, prepareHome } from './home';
import { startCluster } from './postgres';
import { startRunner, startServer } from './supervise';
import { copyTestClips } from './testClips';
import { emptyDatabase } from './testDatabases';

/**
 * Runs one end-to-end spec against a Navvy of its own: an empty database, a
 * runner, a server and a volume with small clips. A process of its own, since
 * NAVVY_HOME names the Navvy. Arguments: the spec's name below tests, and what
 * Playwright is told further.
 */
const [spec = '', ...more] = process.argv.slice(2);
rmSync(home, { recursive: true, force: true });
prepareHome();
writeFileSync(join(home, 'postgres.port'), process.env.NAVVY_DATABASE_PORT ?? '');
const cluster = await startCluster();
await emptyDatabase(cluster.url);
await migrateDatabase(cluster.url, paths.migrations);
await buildApp();
const media = await copyTestClips(process.env.NAVVY_TEST_CLIPS ?? '');
const runner = startRunner(cluster);
const { service, address } = await startServer(cluster.url, Number(process.env.NAVVY_PORT));
const child = spawn(
  process.execPath,
  [join(projectRoot, 'node_modules/@playwright/test/cli.js'), 'test', join('tests', spec), ...more],
  {
    cwd: projectRoot,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, NAVVY_ADDRESS: address, NAVVY_DATABASE_URL: cluster.url, NAVVY_TEST_MEDIA: media },
  },
);
// Asked to end, it ends the tests first: what follows stops the rest.
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => child.kill('SIGTERM'));
const status = await new Promise<number | null>((resolve) => {
  child.once('close', resolve);
});
await Promise.all([service.stop(), runner.stop()]);
cluster.stop();
process.exit(status ?? 1);
