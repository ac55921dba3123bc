import { chromium, type Page } from '@playwright/test';
import { migrateDatabase } from '@/db/migrate';
import { getTrial } from '@/db/queries/trials';
import { sleepUs } from '@/engine/clock';
import { buildApp } from './buildApp';
import { paths } from './home';
import { startCluster } from './postgres';
import { seedDemo } from './seed';
import { startRunner, startServer } from './supervise';

interface Rows<Seeded> {
  readonly seeded: Seeded;
  readonly page: Page;
  readonly address: string;
}

/** Measures in a browser against a Navvy of its own with the demo's clips; `seed` adds rows before it starts, `clear` takes them out again. */
export async function withPage<Seeded, Result>(
  mediaFolder: string,
  seed: () => Promise<Seeded>,
  clear: (seeded: Seeded) => Promise<void>,
  measure: (rows: Rows<Seeded>) => Promise<Result>,
): Promise<Result> {
  const cluster = await startCluster();
  process.env.NAVVY_DATABASE_URL = cluster.url;
  await migrateDatabase(cluster.url, paths.migrations);
  await seedDemo(mediaFolder);
  const seeded = await seed();
  await buildApp();
  const runner = startRunner(cluster);
  const { service, address } = await startServer(cluster.url, 4800);
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium-headless-shell',
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  try {
    return await measure({
      seeded,
      page: await browser.newPage({ viewport: { width: 1280, height: 800 } }),
      address,
    });
  } finally {
    await browser.close();
    await clear(seeded);
    await Promise.all([service.stop(), runner.stop()]);
    if (cluster.started) cluster.stop();
  }
}

/** Milliseconds from asking for an address until `usable`, on each of some visits. */
export async function visitTimes(
  page: Page,
  url: string,
  usable: (page: Page) => Promise<void>,
  visits: number,
): Promise<number[]> {
  const times: number[] = [];
  for (let visit = 0; visit < visits; visit++) {
    const begun = performance.now();
    await page.goto(url);
    await usable(page);
    times.push(performance.now() - begun);
  }
  return times;
}

const lookMs = 300;

/** Asks for a trial as a page does. @returns its id */
export async function askTrial(address: string, body: object): Promise<string> {
  const answer = await fetch(`${address}/api/trials`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  const told = (await answer.json()) as { id?: string; message?: string };
  if (!told.id)
    throw new Error(`A trial was refused: ${told.message ?? answer.status}. Asked: ${JSON.stringify(body)}`);
  return told.id;
}

/** Resolves when a trial neither waits nor runs any more. @param onLook called each time that it is looked for */
export async function untilEnded(id: string, onLook: () => void = () => undefined): Promise<void> {
  while (['queued', 'running'].includes((await getTrial(id))?.status ?? '')) {
    await sleepUs(lookMs * 1000);
    onLook();
  }
}
