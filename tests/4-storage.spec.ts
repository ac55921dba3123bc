import { copyFile, mkdir, readdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { addStandIn, ensureVolume, media, openVolume, query, testFolder, untilBytesMove } from './helpers';

const trialId = (page: Page) => page.url().split('/').at(-1)!;
const storageStatus = async (id: string) => (await query<{ status: string }>('select status from storage_trials where id = $1', [id]))[0]?.status;
const testFilesIn = async (folder: string) => (await readdir(folder, { recursive: true })).filter((name) => name.includes('.navvy-'));

/** Fills the measuring form of the open volume page and starts. */
async function measure(page: Page, test: string, megabytes: number, repeats: number, seconds = 20): Promise<string> {
  await page.getByRole('radio', { name: test, exact: true }).click();
  await page.getByLabel('Each repeat moves, MB').fill(String(megabytes));
  await page.getByLabel('or takes at most, s').fill(String(seconds));
  await page.getByLabel('Repeats').fill(String(repeats));
  await page.getByRole('form', { name: 'Measure' }).getByRole('button', { name: 'Measure' }).click();
  await page.waitForURL(/\/storage\/trials\/[0-9a-f]+$/);
  return trialId(page);
}

test.beforeEach(async ({ page }) => ensureVolume(page));

test('a stand-in is added with its model, labelled simulated, and changed', async ({ page }) => {
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByRole('radio', { name: 'Simulated, by a model' }).click();
  await expect(page.getByText(/By its arithmetic it reads 1\s187\sMB\/s \(held by: link\)/)).toBeVisible();
  await page.getByLabel('Level').selectOption('10');
  await page.getByLabel('How many').fill('5');
  await expect(page.getByText('Level 10 needs an even number of drives.')).toBeVisible();
  await addStandIn(page, 'Harbour store', await testFolder('store'), '1 Gb/s Ethernet, normal frames');
  const entry = page.getByRole('article', { name: 'Harbour store' });
  await expect(entry).toContainText('forecast by its model');
  await expect(entry).toContainText('119 MB/s');
  await openVolume(page, 'Harbour store');
  await page.getByRole('button', { name: 'Edit notes' }).click();
  await page.getByLabel('Array and drives').fill('two drives are old');
  await page.getByText('Round trip, other clients, scripted fault').click();
  await page.getByLabel('Others take, MB/s').fill('lots');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'What others take must be a number.' })).toBeVisible();
  await expect(page.getByLabel('Array and drives')).toHaveValue('two drives are old');
  await page.getByLabel('Others take, MB/s').fill('60');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('two drives are old')).toBeVisible();
  await expect(page.getByText('other clients take 60 MB/s')).toBeVisible();
});

test('a volume is measured: the plan before, the curve during, the answer and its proof after', async ({ page }) => {
  const folder = await testFolder('reader');
  await addStandIn(page, 'Reader A', folder, 'Card reader, UHS-I bus', 'Card');
  await openVolume(page, 'Reader A');
  await expect(page.getByText('Not measured yet')).toBeVisible();
  await expect(page.getByText(/Writes 1\.0\sGB of test files into .*reader.*leaves at least .* and removes them/)).toBeVisible();
  await measure(page, 'Read', 200, 2);
  await expect(page.getByRole('heading', { name: /Repeat 1 of 2/ })).toBeVisible();
  await expect(page.getByRole('progressbar', { name: 'Progress' })).toBeVisible();
  await expect(page.getByLabel('Conditions').first()).toContainText('Reader A');
  await expect(page.getByTestId('answer')).toContainText(/^Reads [\d.]+ MB\/s sustained/, { timeout: 120_000 });
  await expect(page.getByText('simulated', { exact: true })).toBeVisible();
  await expect(page.getByText(/^Cold: /)).toBeVisible();
  await expect(page.getByRole('img', { name: 'Throughput of 2 repeats over time' })).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Raw record' }).click();
  expect((await download).suggestedFilename()).toMatch(/^navvy-storage-.*\.csv$/);
  expect(await testFilesIn(folder)).toEqual([]);
  await page.getByRole('link', { name: 'Reader A' }).click();
  await expect(page.getByRole('table', { name: 'Storage trials' }).getByRole('row')).toHaveCount(2);
  await page.goto('/storage');
  await expect(page.getByRole('article', { name: 'Reader A' })).toContainText('measured');
});

test('a write test is cancelled, killed, and pulled away from: each says so and leaves nothing', async ({ page }) => {
  const folder = await testFolder('shuttle');
  await addStandIn(page, 'Slow shuttle', folder, 'Card reader, UHS-I bus', 'External');
  await openVolume(page, 'Slow shuttle');
  const cancelled = await measure(page, 'Write', 3_000, 1, 60);
  await untilBytesMove(cancelled);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('heading', { name: 'This trial was cancelled' })).toBeVisible();
  expect(await testFilesIn(folder)).toEqual([]);

  await openVolume(page, 'Slow shuttle');
  const killed = await measure(page, 'Write', 3_000, 1, 60);
  process.kill(await untilBytesMove(killed), 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'The trial process crashed' })).toBeVisible();
  expect(await testFilesIn(folder)).toEqual([]);

  await openVolume(page, 'Slow shuttle');
  const pulled = await measure(page, 'Write', 3_000, 1, 60);
  await untilBytesMove(pulled);
  await rename(folder, `${folder}-pulled`);
  await expect(page.getByRole('heading', { name: 'This trial failed' })).toBeVisible();
  await expect(page.getByText(/is not there\. Check that the volume is connected/)).toBeVisible();
  expect(await testFilesIn(`${folder}-pulled`)).toEqual([]);
  await rename(`${folder}-pulled`, folder);

  await openVolume(page, 'Slow shuttle');
  await page.getByLabel('Each repeat moves, MB').fill('9000000');
  await expect(page.getByText(/There is room for .* of test files/)).toBeVisible();
  await page.getByRole('form', { name: 'Measure' }).getByRole('button', { name: 'Measure' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'would leave less than the reserve' })).toBeVisible();
});

test('a runner killed in a write test comes back, closes the trial and removes its files', async ({ page }) => {
  const folder = await testFolder('disk');
  await addStandIn(page, 'Field disk', folder, 'Card reader, UHS-I bus', 'External');
  await openVolume(page, 'Field disk');
  const id = await measure(page, 'Write', 3_000, 1, 60);
  await untilBytesMove(id);
  process.kill((await query<{ pid: number }>('select pid from runners'))[0]!.pid, 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'This trial was interrupted' })).toBeVisible({ timeout: 120_000 });
  expect(await testFilesIn(folder)).toEqual([]);
});

test('streams carried are found and set beside the arithmetic', async ({ page }) => {
  const folder = await testFolder('streams');
  await mkdir(folder, { recursive: true });
  await copyFile(join(media, 'small/TW_TEST_0003.mov'), join(folder, 'TW_TEST_0003.mov'));
  await addStandIn(page, 'Office store', folder, '1 Gb/s Ethernet, normal frames');
  await expect(page.getByRole('article', { name: 'Office store' }).getByRole('link', { name: '1 clip' })).toBeVisible();
  await openVolume(page, 'Office store');
  await page.getByLabel('Each number for, s').fill('2');
  await page.getByLabel('Try at most, streams').fill('2');
  await page.getByRole('button', { name: 'Find the number of streams' }).click();
  await expect(page.getByTestId('answer')).toContainText(/Arithmetic says \d+\./, { timeout: 120_000 });
  await expect(page.getByRole('table', { name: 'Numbers of streams tried' })).toContainText('MB/s');
});

test('the ladder is read by keyboard and as a table, and formats are added and taken back', async ({ page }) => {
  await addStandIn(page, 'Ladder store', await testFolder('ladder'), '2.5 Gb/s Ethernet, jumbo frames');
  await page.goto('/storage/ladder');
  const answer = page.getByTestId('answer');
  await page.getByRole('radio', { name: 'Camera formats' }).click();
  await expect(answer).toContainText('UHD uncompressed from');
  await page.keyboard.press('ArrowDown');
  await expect(answer).toContainText('8K light raw from');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowUp'); // faster than the page draws: neither may be lost
  await expect(answer).toContainText('UHD uncompressed from');
  for (let text = await answer.textContent(); !text!.includes('Ladder store'); text = await answer.textContent()) {
    await page.keyboard.press('ArrowRight');
    await expect(answer).not.toHaveText(text!);
  }
  await expect(answer).toContainText('UHD uncompressed from Ladder store: too slow');
  await page.getByLabel('Streams', { exact: true }).fill('2');
  await expect(answer).toContainText('2 streams of UHD uncompressed');
  await page.getByText('The same as a table').click();
  await expect(page.getByRole('table', { name: 'Ladder' }).getByRole('row').filter({ hasText: 'UHD uncompressed' })).toContainText('too slow');

  await page.getByRole('button', { name: 'Add a format' }).click();
  const form = page.getByRole('form', { name: 'New camera format' });
  await form.getByRole('button', { name: 'Save' }).click();
  await expect(form.getByRole('alert')).toBeVisible();
  await form.getByLabel('Name').fill('Bridge camera');
  await form.getByLabel('Bytes per frame').fill('1000000');
  await expect(form.getByLabel('or data rate, Mb/s')).toHaveValue('200');
  await form.getByRole('button', { name: 'Save' }).click();
  const table = page.getByRole('table', { name: 'Camera formats' });
  await expect(table.getByRole('row').filter({ hasText: 'Bridge camera' })).toContainText('200');
  await expect(page.getByRole('table', { name: 'Ladder' })).toContainText('Bridge camera');
  await table.getByRole('button', { name: 'Remove Bridge camera' }).click();
  await expect(page.getByText('Bridge camera was removed.')).toBeVisible();
  await expect(table).not.toContainText('Bridge camera');
  await page.keyboard.press('Control+z');
  await expect(table).toContainText('Bridge camera');
});

test('the planner compares alternatives, refuses what cannot be, and takes edits back', async ({ page }) => {
  await page.goto('/storage/planner');
  const table = page.getByRole('table', { name: 'Alternatives' });
  const row = (name: string) => table.getByRole('row').filter({ has: page.getByRole('rowheader', { name, exact: true }) });
  await expect(row('Usable capacity')).toContainText('108.0 TB');
  await page.getByLabel('Drives of Store A').fill('10');
  await expect(row('Usable capacity')).toContainText('144.0 TB');
  await page.getByLabel('Drives of Store A').fill('3');
  await expect(row('Cannot be')).toContainText('Level 6 needs at least 4 drives.');
  await page.getByLabel('Drives of Store A').blur();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row('Usable capacity')).toContainText('144.0 TB');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(row('Cannot be')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Duplicate Store B' }).click();
  await page.getByLabel('Link of Store B, other').selectOption({ label: '1 Gb/s Ethernet' });
  await expect(row('Streams for each client')).toContainText('□');
  await page.reload(); // kept in this browser
  await expect(page.getByLabel('Name of alternative 3')).toHaveValue('Store B, other');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'CSV' }).click();
  expect((await download).suggestedFilename()).toBe('navvy-planner.csv');
});

/** A card volume with two files over a slow reader. */
async function addCard(page: Page, name: string): Promise<string> {
  const folder = await testFolder('card');
  await mkdir(join(folder, 'clips'));
  await writeFile(join(folder, 'clips/a.mov'), Buffer.alloc(30e6, 1));
  await writeFile(join(folder, 'clips/b.mov'), Buffer.alloc(300e6, 2));
  await addStandIn(page, name, folder, 'Card reader, UHS-I bus', 'Card');
  return folder;
}

async function startCopy(page: Page, card: string, to: string, folder: string): Promise<string> {
  await page.goto('/storage/copies');
  await page.getByLabel('From').selectOption({ label: `${card} (simulated)` });
  await page.getByLabel('To', { exact: true }).selectOption({ label: to });
  await page.getByLabel('into').first().fill(folder);
  await page.getByRole('button', { name: 'Copy', exact: true }).first().click();
  await page.waitForURL(/\/storage\/trials\/[0-9a-f]+$/);
  return trialId(page);
}

test('a card is copied with a pause and a kill in between, verified, and never overwrites', async ({ page }) => {
  const target = await testFolder('target');
  await addStandIn(page, 'Edit room', target, 'PCIe inside, 4 lanes', 'External');
  await addCard(page, 'Card B001');
  const id = await startCopy(page, 'Card B001', 'Edit room (simulated)', 'cards/B001');
  await expect(page.getByRole('heading', { name: /file 2 of 2: clips\/b\.mov/ })).toBeVisible();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByRole('heading', { name: 'This copy is paused' })).toBeVisible();
  expect(await testFilesIn(target)).toEqual([]);
  await page.getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByRole('heading', { name: /file 2 of 2/ })).toBeVisible();
  process.kill((await query<{ pid: number }>('select pid from runners'))[0]!.pid, 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'This trial was interrupted' })).toBeVisible({ timeout: 120_000 });
  expect(await testFilesIn(target)).toEqual([]);
  await page.getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByTestId('answer')).toContainText(/^2 of 2 files, 330\.0\sMB in all, copied and verified\./, { timeout: 120_000 });
  expect(await storageStatus(id)).toBe('done');
  await expect(page.getByRole('table', { name: 'Files of this copy' }).getByRole('row').filter({ hasText: 'clips/b.mov' })).toContainText('copied');
  await expect(page.getByText(/0001_B001_.*\.mhl/)).toBeVisible();
  await expect(page.getByText('reading the card')).toBeVisible();

  await writeFile(join(target, 'cards/B001/clips/a.mov'), 'someone else’s');
  await startCopy(page, 'Card B001', 'Edit room (simulated)', 'cards/B001');
  await expect(page.getByText(/has other files under the names of 1 of 2 \(clips\/a\.mov\)/)).toBeVisible();
  await page.goto('/storage/copies');
  await expect(page.getByRole('table', { name: 'Copies' }).getByRole('row')).toHaveCount(3);
});

test('a shooting day shows where its hours go and what saves them', async ({ page }) => {
  await addStandIn(page, 'Day store', await testFolder('day'), '10 Gb/s Ethernet, normal frames');
  await page.goto('/storage/copies');
  const day = page.getByTestId('day');
  await expect(day).toContainText(/held by the reader\. A reader twice as fast saves \d:\d\d:\d\d\./);
  await page.getByLabel('Reader and link').selectOption({ label: 'Card reader, UHS-II bus' });
  await expect(day).toContainText(/held by the cards\. (A destination twice as fast saves|Cards twice as fast save) /); // which of them depends on what this machine's disk gave
  await expect(page.getByRole('table', { name: 'Readers compared' })).toContainText('UHS-I bus');
  await page.getByLabel('Destination', { exact: true }).selectOption({ label: 'Day store (forecast, simulated)' });
  await expect(page.getByLabel('takes, MB/s')).toHaveValue('1187');
  await page.getByLabel('Cards').fill('none');
  await expect(page.getByText('Give every figure as a number above 0')).toBeVisible();
});

test('a clip played from a simulated volume says so wherever its result shows', async ({ page }) => {
  const folder = await testFolder('sim');
  await copyFile(join(media, 'small/TW_TEST_0003.mov'), join(folder, 'TW_SIM_0003.mov'));
  await addStandIn(page, 'Far store', folder, '1 Gb/s Ethernet, normal frames');
  await expect(page.getByRole('article', { name: 'Far store' }).getByRole('link', { name: '1 clip' })).toBeVisible();
  await page.goto('/trials');
  const list = page.getByLabel('Clip', { exact: true });
  const label = (await list.locator('option').allTextContents()).find((text) => text.includes('TW_SIM_0003'))!;
  expect(label).toContain('(simulated)');
  await list.selectOption({ label });
  await page.getByRole('button', { name: 'Play and measure' }).click();
  await expect(page.getByTestId('answer')).toBeVisible({ timeout: 120_000 });
  await expect(page.getByText('simulated', { exact: true })).toBeVisible();
  await expect(page.getByText(/simulated: 1 Gb\/s Ethernet/)).toBeVisible();
  await page.goto('/trials');
  await expect(page.getByRole('table', { name: 'Trials' }).getByRole('row').filter({ hasText: 'TW_SIM_0003' })).toContainText('simulated');
});
