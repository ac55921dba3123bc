import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { migrateDatabase } from '@/db/migrate';
import { demoTimelineId } from '@/demo/timelines';
import { demoVolumes } from '@/demo/volumes';
import { readRigIdentity } from '@/engine/rig';
import { buildApp } from './buildApp';
import { projectRoot } from './bundle';
import { paths, prepareHome } from './home';
import { startCluster } from './postgres';
import { generateDemoMedia, seedDemo } from './seed';
import { demoBriefId } from './seedBrief';
import { startRunner, startServer } from './supervise';

const folder = join(projectRoot, 'docs', 'screenshots');

/** Finds a clip by words, and chooses the first that has them. */
async function chooseClip(page: Page, label: string, words: string): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  const found = page.getByRole('dialog', { name: label, exact: true });
  await found.getByPlaceholder('Type to find').fill(words);
  await found
    .getByRole('option', { name: words.split(' ')[0] ?? '' })
    .first()
    .click();
}

/** Starts a trial through the interface and leaves the page on it. */
async function startTrial(page: Page, address: string, clip: string, scale: string): Promise<void> {
  await page.goto(`${address}/trials`);
  await chooseClip(page, 'Clip', `${clip} Edit room`);
  await page.getByRole('radio', { name: scale }).click();
  await page.getByRole('button', { name: 'Play and measure' }).click();
  await page.waitForURL(/\/trials\/[0-9a-f]+$/);
}

/** Measures a volume through the interface and leaves the page on the result. */
async function measure(
  page: Page,
  address: string,
  volumeId: string,
  test: 'Read' | 'Write',
  repeats: number,
  during?: () => Promise<void>,
): Promise<void> {
  await page.goto(`${address}/storage/volumes/${volumeId}`);
  await page.getByRole('radio', { name: test, exact: true }).click();
  await page.getByLabel('Repeats').fill(String(repeats));
  await page.getByRole('form', { name: 'Measure' }).getByRole('button', { name: 'Measure' }).click();
  await page.waitForURL(/\/storage\/trials\/[0-9a-f]+$/);
  await during?.();
  await page.getByTestId('answer').waitFor({ timeout: 240_000 });
}

/** Measures the demo's volumes, copies a card, and takes the pictures of the storage section. */
async function shootStorage(
  page: Page,
  address: string,
  shoot: (name: string) => Promise<void>,
): Promise<void> {
  for (const { id } of demoVolumes) await measure(page, address, id, 'Read', 1);
  await measure(page, address, 'volume-demo-shuttle', 'Read', 1);
  await measure(page, address, 'volume-demo-shuttle', 'Write', 2);
  await page.goto(`${address}/storage/volumes/volume-demo-shuttle`);
  await page.getByRole('figure', { name: 'History' }).waitFor();
  // What only reads names no folder of the host.
  await page.getByRole('radio', { name: 'Frame-paced', exact: true }).click();
  await page.getByRole('heading', { name: 'Measure it' }).evaluate((heading) => heading.scrollIntoView());
  await shoot('volume');
  await page.goto(`${address}/storage/volumes/volume-demo-store-1`);
  await page.getByLabel('Streams of').selectOption({ label: 'wall-camera/TW_WALL_0107.mov' });
  await page.getByRole('button', { name: 'Find the number of streams' }).click();
  await page.getByTestId('answer').waitFor({ timeout: 240_000 });
  await page.goto(`${address}/storage/copies`);
  const copies = join(paths.media, 'edit-room-internal', 'cards');
  rmSync(copies, { recursive: true, force: true });
  await page.getByRole('button', { name: 'Copy', exact: true }).first().click();
  await page.getByTestId('answer').waitFor({ timeout: 240_000 });
  rmSync(copies, { recursive: true, force: true });
  for (const [path, name] of [
    ['', 'storage'],
    ['/ladder', 'ladder'],
    ['/planner', 'planner'],
    ['/copies', 'card-copies'],
  ] as const) {
    await page.goto(`${address}/storage${path}`);
    await page.getByRole('heading', { level: 1 }).waitFor();
    await page.waitForTimeout(1_000);
    if (name === 'ladder')
      for (const key of ['ArrowDown', 'ArrowDown', 'ArrowRight']) await page.keyboard.press(key);
    if (name !== 'card-copies') await shoot(name);
  }
}

/** Measures decoding, makes a batch of proxies, and takes the pictures of the media section. */
async function shootMedia(
  page: Page,
  address: string,
  shoot: (name: string) => Promise<void>,
): Promise<void> {
  await page.goto(`${address}/media/renditions`);
  const form = page.getByRole('form', { name: 'Make renditions' });
  await form.getByLabel('Filter Clips').fill('Edit room');
  for (const name of ['KITE_0031', 'MARSH_0212']) await form.getByRole('checkbox', { name }).check();
  await form.getByRole('button', { name: 'Make 2 renditions' }).click();
  await page.getByTestId('answer').waitFor({ timeout: 240_000 });
  // A batch's own page names the processor of the host.
  await page.goto(`${address}/media/renditions`);
  await page.waitForTimeout(1_000);
  await shoot('renditions');
  await page.goto(`${address}/media`);
  await page.getByLabel('Volume').selectOption({ label: 'Edit room internal' });
  await page.getByRole('checkbox', { name: 'Choose all Clips' }).check();
  await shoot('media');
  await page.getByRole('button', { name: 'Measure decode rates' }).click();
  await page.getByRole('region', { name: 'Under way' }).waitFor();
  await page.getByRole('region', { name: 'Under way' }).waitFor({ state: 'detached', timeout: 300_000 });
  await page.goto(`${address}/media/support`);
  await page.getByRole('button', { name: /^Test \d+ unknown/ }).click();
  await page.getByRole('region', { name: 'Under way' }).waitFor();
  await page.getByRole('region', { name: 'Under way' }).waitFor({ state: 'detached', timeout: 600_000 });
  await shoot('decode-support');
  await page.getByRole('link', { name: /H\.264 8-bit .*HD 1080 on Neap/ }).click();
  await page.getByTestId('answer').waitFor();
  await page.waitForTimeout(500);
  await shootClip(page, address, shoot);
}

/** A clip's own page. */
async function shootClip(page: Page, address: string, shoot: (name: string) => Promise<void>): Promise<void> {
  await page.goto(`${address}/media`);
  await page.getByLabel('Filter Clips').fill('KITE_0031.mp4');
  await page.getByRole('link', { name: /^TW_KITE_0031\.mp4 Edit room/ }).click();
  await page.getByTestId('frame-readout').waitFor();
  await page.waitForTimeout(1_000);
  await shoot('clip');
}

/** Plays and scrubs the demo's timeline and takes the pictures of the timelines section. */
async function shootTimelines(
  page: Page,
  address: string,
  shoot: (name: string) => Promise<void>,
): Promise<void> {
  await page.goto(`${address}/timelines/${demoTimelineId}`);
  await page.locator('img[data-slot]').waitFor();
  for (const key of ['ArrowDown', 'ArrowDown', 'n']) await page.keyboard.press(key);
  await page.keyboard.press('Shift+ArrowRight');
  await page.waitForTimeout(1_500);
  await shoot('timeline');
  const form = page.getByRole('form', { name: 'Play and measure this timeline' });
  await form.getByRole('radio', { name: 'Quarter' }).click();
  await form.getByRole('button', { name: 'Play and measure' }).click();
  await page.waitForURL(/\/trials\/[0-9a-f]+$/);
  await page.getByTestId('answer').waitFor({ timeout: 120_000 });
  await page.getByRole('img', { name: 'The timeline that was played' }).waitFor();
  await page.waitForTimeout(500);
  await shoot('timeline-trial');
  await page.goto(`${address}/timelines/tests`);
  const scrub = page.getByRole('form', { name: 'Scrub trial' });
  const rows = page
    .getByRole('table', { name: 'Scrub trials and ramps' })
    .locator('tbody tr')
    .filter({ hasText: 'was on screen after' });
  for (const form of ['Originals', 'Proxies']) {
    await page.goto(`${address}/timelines/tests`);
    await chooseClip(page, 'Clip or timeline', 'TW_WALL_0107.mov Edit room');
    await scrub.getByLabel('slow drag').uncheck();
    await scrub.getByLabel('fast drag').check();
    await scrub.getByRole('radio', { name: form }).click();
    await scrub.getByRole('button', { name: 'Scrub and measure' }).click();
    await page.waitForURL(/\/tests\/[0-9a-f]+$/);
    await page.getByTestId('answer').waitFor({ timeout: 120_000 });
  }
  await page.goto(`${address}/timelines/tests`);
  for (const row of (await rows.all()).slice(0, 2)) await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Compare 2 scrub trials' }).click();
  await page.getByRole('table', { name: 'Figures side by side' }).waitFor();
  await page.waitForTimeout(800);
  await shoot('scrub');
}

/** Runs a matrix, compares its cells, and takes the pictures from there to the report. */
async function shootDecide(
  page: Page,
  address: string,
  shoot: (name: string) => Promise<void>,
): Promise<void> {
  await page.goto(`${address}/choose/${demoBriefId}`);
  await page.getByText('measuring now').first().waitFor({ state: 'detached', timeout: 240_000 });
  await page.waitForTimeout(1_000);
  await shoot('decision');
  await page.goto(`${address}/choose/${demoBriefId}/report`);
  await page
    .getByRole('img', { name: /^Slots of / })
    .first()
    .waitFor();
  await page.waitForTimeout(1_500);
  await shoot('report');
  await page.goto(`${address}/trials/plans`);
  const form = page.getByRole('form', { name: 'New matrix' });
  await form.getByLabel('Question').selectOption({ label: 'Which volume?' });
  const [clips, volumes] = [
    form.getByRole('group', { name: 'Clips and timelines' }),
    form.getByRole('group', { name: 'Volumes' }),
  ];
  for (const chosen of await clips.getByRole('checkbox').all())
    if (await chosen.isChecked()) await chosen.uncheck();
  await clips.getByRole('checkbox', { name: /^TW_WALL_0107_proxy/ }).check();
  for (const chosen of await volumes.getByRole('checkbox').all()) await chosen.uncheck();
  for (const name of ['Edit room internal', 'Shuttle SSD', 'store, 1 Gb/s'])
    await volumes.getByRole('checkbox', { name }).check();
  await form.getByRole('checkbox', { name: 'Throughput' }).uncheck();
  await form.getByRole('button', { name: 'Start 15 runs' }).click();
  await page.waitForURL(/\/plans\/[0-9a-f]+$/);
  // Those in doubt are made again.
  await page.getByText(/^All \d+ runs ended/).waitFor({ timeout: 900_000 });
  await shoot('matrix');
  await page.getByRole('link', { name: 'Compare', exact: true }).last().click();
  await page.getByLabel('Compared by').selectOption({ label: 'Reading, per second of media' });
  await page
    .getByRole('img', { name: /^Slots of / })
    .last()
    .waitFor();
  await page.waitForTimeout(1_000);
  await shoot('compare');
}

/** Checks the rig and takes its picture. */
async function shootRig(page: Page, address: string, shoot: (name: string) => Promise<void>): Promise<void> {
  await page.goto(`${address}/rig`);
  await page.getByRole('button', { name: /Run the self-check/ }).click();
  await page.getByRole('button', { name: 'Run the self-check again', disabled: true }).waitFor();
  await page
    .getByRole('button', { name: 'Run the self-check again', disabled: false })
    .waitFor({ timeout: 300_000 });
  await shoot('rig');
}

/** All pictures, in the order of work. */
async function shootAll(page: Page, address: string, shoot: (name: string) => Promise<void>): Promise<void> {
  await shootRig(page, address, shoot);
  if (!process.argv.includes('media')) await shootStorage(page, address, shoot);
  await shootMedia(page, address, shoot);
  await shootTimelines(page, address, shoot);
  await shootDecide(page, address, shoot);
  await shootTasks(page, address, shoot);
  await shootTrials(page, address, shoot);
}

/** Exports the demo's timeline and takes the picture of the result. */
async function shootTasks(
  page: Page,
  address: string,
  shoot: (name: string) => Promise<void>,
): Promise<void> {
  await page.goto(`${address}/trials/tasks?timeline=${demoTimelineId}`);
  const form = page.getByRole('form', { name: 'Export' });
  await form.getByLabel('To volume').selectOption({ label: 'Edit room internal' });
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await page.getByTestId('answer').waitFor({ timeout: 240_000 });
  await page.waitForTimeout(1_000);
  await shoot('task');
}

/** Plays clips and takes the pictures of trials. */
async function shootTrials(
  page: Page,
  address: string,
  shoot: (name: string) => Promise<void>,
): Promise<void> {
  await startTrial(page, address, 'WALL_0119', 'Half');
  await page.getByTestId('answer').waitFor({ timeout: 60_000 });
  await startTrial(page, address, 'KITE_0031', 'Full');
  await page.getByTestId('answer').waitFor({ timeout: 60_000 });
  await startTrial(page, address, 'WALL_0119', 'Full');
  await page.getByTestId('answer').waitFor({ timeout: 60_000 });
  await page.getByTestId('readout').getByText(/slot/).first().waitFor();
  await shoot('trial-result');
  await page.goto(`${address}/trials`);
  await page.getByRole('table', { name: 'Trials' }).waitFor();
  await shoot('trials');
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
  const runner = startRunner(cluster);
  const { service, address } = await startServer(cluster.url, 4900);
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium-headless-shell',
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const names = await namesToReplace();
  const shoot = async (name: string) => {
    await page.evaluate(replaceNames(names));
    await page.screenshot({ path: join(folder, `${name}.png`) });
  };
  try {
    if (process.argv.includes('timelines')) await shootTimelines(page, address, shoot);
    else if (process.argv.includes('tasks')) await shootTasks(page, address, shoot);
    else if (process.argv.includes('clip')) await shootClip(page, address, shoot);
    else if (process.argv.includes('decide')) await shootDecide(page, address, shoot);
    else if (process.argv.includes('trials')) {
      await shootRig(page, address, shoot);
      await shootTrials(page, address, shoot);
    } else await shootAll(page, address, shoot);
  } finally {
    await browser.close();
    await Promise.all([service.stop(), runner.stop()]);
    if (cluster.started) cluster.stop();
  }
  process.stdout.write(`Pictures are in ${folder}\n`);
  process.exit(0);
}

/** What tells of the machine the pictures are taken on, and what stands in its place: the scenario's own. */
async function namesToReplace(): Promise<[string, string][]> {
  const { processor, kernel, host, machine } = await readRigIdentity();
  return [
    [paths.media, '/srv/tidewrack'],
    [processor, 'Two-core server processor'],
    [`kernel ${kernel}`, 'kernel 6.1'],
    [machine, 'virtual'],
    [host, 'slipway'],
  ];
}

/** As text, run in the page: replaces names in what is written, and the list of busy processes, which are the viewer's own. */
function replaceNames(names: readonly (readonly [string, string])[]): string {
  return `for (const walker = document.createTreeWalker(document.getElementById('content'), NodeFilter.SHOW_TEXT); walker.nextNode();) {
    const node = walker.currentNode;
    let text = node.data;
    for (const [name, madeUp] of ${JSON.stringify(names)}) if (text === name || (name.length > 4 && text.includes(name))) text = text.replaceAll(name, madeUp);
    if (/% of a core/.test(text)) text = 'nothing else';
    if (text !== node.data) node.data = text;
  }`;
}
