import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { migrateDatabase } from '@/db/migrate';
import { getRig, saveRig } from '@/db/queries/rigs';
import { readRigIdentity, thisRigId } from '@/engine/rig';
import { buildApp } from './buildApp';
import { projectRoot } from './bundle';
import { paths, prepareHome } from './home';
import { startCluster } from './postgres';
import { generateDemoMedia, seedDemo } from './seed';
import { startRunner, startServer } from './supervise';

const folder = join(projectRoot, 'docs', 'screenshots');

/** Starts a trial through the interface and leaves the page on it. */
async function startTrial(page: Page, address: string, clip: string, scale: string): Promise<void> {
  await page.goto(`${address}/trials`);
  const list = page.getByLabel('Clip', { exact: true });
  const label = (await list.locator('option').allTextContents()).find((text) => text.includes(clip)) ?? '';
  await list.selectOption({ label });
  await page.getByRole('radio', { name: scale }).click();
  await page.getByRole('button', { name: 'Play and measure' }).click();
  await page.waitForURL(/\/trials\/[0-9a-f]+$/);
}

/** Takes one picture of each main view from the demo data, with trials that are run for it. */
export async function takeScreenshots(): Promise<void> {
  prepareHome();
  mkdirSync(folder, { recursive: true });
  const media = await generateDemoMedia();
  const cluster = await startCluster();
  process.env.NAVVY_DATABASE_URL = cluster.url;
  await migrateDatabase(cluster.url, paths.migrations);
  await seedDemo(media);
  await buildApp();
  const runner = startRunner(cluster.url);
  const { service, address } = await startServer(cluster.url, 4900);
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'] });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const shoot = (name: string) => page.screenshot({ path: join(folder, `${name}.png`) });
  try {
    await page.goto(`${address}/rig`);
    await page.getByRole('button', { name: /Run the self-check/ }).click();
    await page.getByRole('link', { name: 'see its slots and conditions' }).waitFor({ timeout: 60_000 });
    await nameMadeUpRig();
    await page.reload();
    await page.getByRole('link', { name: 'see its slots and conditions' }).waitFor();
    // The viewer's own process is no part of the scenario.
    await page.getByText(/of a core/).evaluateAll((nodes) => { for (const node of nodes) node.textContent = 'nothing above 1 %'; });
    await shoot('rig');
    for (const section of ['storage', 'media']) {
      await page.goto(`${address}/${section}`);
      await page.getByRole('heading', { level: 1 }).waitFor();
      await shoot(section);
    }
    await startTrial(page, address, 'WALL_0119', 'Half');
    await page.getByTestId('answer').waitFor({ timeout: 60_000 });
    await startTrial(page, address, 'KITE_0031', 'Full');
    await page.getByAltText(/Frame \d+ as presented/).waitFor({ timeout: 60_000 });
    await page.waitForTimeout(3_000);
    await shoot('trial-live');
    await page.getByTestId('answer').waitFor({ timeout: 60_000 });
    await startTrial(page, address, 'WALL_0119', 'Full');
    await page.getByTestId('answer').waitFor({ timeout: 60_000 });
    await page.getByTestId('readout').getByText(/slot/).first().waitFor();
    await shoot('trial-result');
    await page.getByRole('button', { name: 'Light or dark' }).click();
    await page.getByRole('region', { name: 'Figures' }).scrollIntoViewIfNeeded();
    await page.waitForTimeout(500);
    await shoot('trial-result-light');
    await page.getByRole('button', { name: 'Light or dark' }).click();
    await page.goto(`${address}/trials`);
    await page.getByRole('table', { name: 'Trials' }).waitFor();
    await shoot('trials');
  } finally {
    await browser.close();
    await Promise.all([service.stop(), runner.stop()]);
    if (cluster.started) cluster.stop();
  }
  process.stdout.write(`Pictures are in ${folder}\n`);
  process.exit(0);
}

/** Pictures show the made-up rig of the scenario, not the machine they were taken on. */
async function nameMadeUpRig(): Promise<void> {
  const id = await thisRigId();
  const identity = { ...(await readRigIdentity()), host: 'slipway', processor: 'Two-core server processor', machine: 'virtual', kernel: '6.1' };
  await saveRig(id, identity, (await getRig(id))?.name ?? 'Slipway');
}
