import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createInterface } from 'node:readline/promises';
import { closeConnection } from '@/db/client';
import { migrateDatabase } from '@/db/migrate';
import { buildApp } from './buildApp';
import { CliError, home, paths, prepareHome } from './home';
import { startCluster } from './postgres';
import { startRunner, startServer, type Service } from './supervise';

const usage = `./navvy demo         set everything up with demo data and start
./navvy start        the same without demo data
./navvy test         set up and run all tests
./navvy bench        measure Navvy's own speed; name parts to measure only those
./navvy screenshots  take the pictures in docs/screenshots
./navvy formats      write docs/formats.md anew
./navvy openapi      write docs/openapi.json and docs/result-bundle.schema.json anew
./navvy notices      write THIRD-PARTY-NOTICES.md anew
./navvy reset        remove the demo data
`;

const firstPort = Number(process.env.NAVVY_PORT ?? 4600);

/** The address of a Navvy already running from this home, or null. */
function runningAddress(): string | null {
  if (!existsSync(paths.running)) return null;
  const { pid, address } = JSON.parse(readFileSync(paths.running, 'utf8')) as {
    pid: number;
    address: string;
  };
  try {
    process.kill(pid, 0);
    return address;
  } catch {
    return null;
  }
}

async function addDemo(): Promise<void> {
  const { generateDemoMedia, seedDemo } = await import('./seed');
  await seedDemo(await generateDemoMedia());
}

async function start(withDemo: boolean): Promise<void> {
  const begun = Date.now();
  prepareHome();
  const running = runningAddress();
  if (running) {
    process.stdout.write(`Navvy is running already: ${running}\n`);
    return;
  }
  const cluster = await startCluster();
  const services: Service[] = [];
  const stop = async () => {
    await Promise.all(services.map((service) => service.stop()));
    cluster.stop();
    rmSync(paths.running, { force: true });
  };
  let stopping = false;
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) {
    process.on(signal, () => {
      if (stopping) return;
      stopping = true;
      process.stdout.write('\nStopping ...\n');
      void stop().then(() => process.exit(0));
    });
  }
  try {
    process.env.NAVVY_DATABASE_URL = cluster.url;
    await migrateDatabase(cluster.url, paths.migrations);
    // Side by side: what one leaves of the cores, the other takes.
    await Promise.all([buildApp(), withDemo ? addDemo() : null]);
    services.push(startRunner(cluster));
    const { service, address } = await startServer(cluster.url, firstPort);
    services.push(service);
    writeFileSync(paths.running, JSON.stringify({ pid: process.pid, address }));
    process.stdout.write(
      `\nNavvy is ready at ${address}  (${((Date.now() - begun) / 1000).toFixed(1)} s)\nCtrl-C stops it.\n`,
    );
  } catch (error) {
    await stop();
    throw error;
  }
}

async function reset(): Promise<void> {
  prepareHome();
  if (runningAddress())
    throw new CliError(
      'Navvy is running. Stop it with Ctrl-C where it was started, then run ./navvy reset again.',
    );
  const assumeYes = process.argv.includes('--yes');
  const prompt = createInterface({ input: process.stdin, output: process.stdout });
  const answer = assumeYes
    ? 'yes'
    : await prompt.question(
        `This removes the demo volume with its clips, all trials made from them, and the media in ${paths.media}.\nYour own volumes and trials stay. Type yes to go on: `,
      );
  prompt.close();
  if (answer.trim().toLowerCase() !== 'yes') {
    process.stdout.write('Nothing was removed.\n');
    return;
  }
  const cluster = await startCluster();
  try {
    process.env.NAVVY_DATABASE_URL = cluster.url;
    await migrateDatabase(cluster.url, paths.migrations);
    const { removeDemoData } = await import('@/db/queries/demo');
    const { listDemoPrerenders } = await import('@/db/queries/prerenders');
    const { discardPrerender } = await import('@/server/timelines/prerenders');
    for (const rendered of await listDemoPrerenders()) await discardPrerender(rendered);
    const { volumes, trials } = await removeDemoData();
    rmSync(paths.media, { recursive: true, force: true });
    await closeConnection();
    process.stdout.write(`Removed ${volumes} demo volume(s), ${trials} trial(s) and the demo media.\n`);
  } finally {
    if (cluster.started) cluster.stop();
  }
}

const commands: Record<string, () => Promise<void>> = {
  demo: () => start(true),
  start: () => start(false),
  reset,
  test: async () => (await import('./test')).runTests(),
  bench: async () => (await import('./bench')).runBench(),
  screenshots: async () => (await import('./screenshots')).takeScreenshots(),
  notices: async () => (await import('./notices')).writeNotices(),
  formats: async () => (await import('./formatsTable')).writeFormats(),
  openapi: async () => {
    (await import('./openapi')).writeOpenApi();
    (await import('./bundleSchema')).writeBundleSchema();
  },
};

const command = commands[process.argv[2] ?? ''];
if (!command) {
  process.stdout.write(usage);
  process.exitCode = process.argv[2] && process.argv[2] !== 'help' ? 2 : 0;
} else {
  await command().catch((error: unknown) => {
    process.stderr.write(
      `\n${error instanceof CliError ? error.message : error instanceof Error ? error.stack : String(error)}\n`,
    );
    process.stderr.write(`Data and logs are in ${home}.\n`);
    process.exit(1);
  });
}
