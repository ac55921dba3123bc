import { copyFile, mkdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import {
  addStandIn,
  chooseTrial,
  ensureVolume,
  idInAddress,
  media,
  openVolume,
  query,
  testFilesIn,
  testFolder,
  untilBytesMove,
} from './helpers';

/** Fills the measuring form of the open volume page and starts. */
async function measure(
  page: Page,
  test: string,
  megabytes: number,
  repeats: number,
  seconds = 20,
): Promise<string> {
  await page.getByRole('radio', { name: test, exact: true }).click();
  await page.getByLabel('Each repeat moves, MB').fill(String(megabytes));
  await page.getByLabel('or takes at most, s').fill(String(seconds));
  await page.getByLabel('Repeats').fill(String(repeats));
  await page.getByRole('form', { name: 'Measure' }).getByRole('button', { name: 'Measure' }).click();
  await page.waitForURL(/\/storage\/trials\/[0-9a-f]+$/);
  return idInAddress(page);
}

test.beforeEach(async ({ page }) => ensureVolume(page));

test('a stand-in is added with its model, labelled simulated, and changed', async ({ page }) => {
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByRole('radio', { name: 'Simulated, by a model' }).click();
  await expect(page.getByText(/By its arithmetic it reads 1\s177\sMB\/s \(limited by: link\)/)).toBeVisible();
  await page.getByLabel('Level').selectOption('10');
  await page.getByLabel('How many').fill('5');
  await expect(page.getByText('Level 10 needs an even number of drives.')).toBeVisible();
  await addStandIn(page, 'Harbour store', await testFolder('store'), '1 Gb/s Ethernet, normal frames');
  const entry = page.getByRole('article', { name: 'Harbour store' });
  await expect(entry).toContainText('forecast by its model');
  await expect(entry).toContainText('118 MB/s');
  await openVolume(page, 'Harbour store');
  await page.getByRole('button', { name: 'Edit notes' }).click();
  await page.getByLabel('Array and drives').fill('two drives are old');
  await page.getByText('Round trip, other clients, scripted fault').click();
  await page.getByLabel('Others take, MB/s').fill('lots');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(
    page.getByRole('alert').filter({ hasText: 'What others take must be a number.' }),
  ).toBeVisible();
  await expect(page.getByLabel('Array and drives')).toHaveValue('two drives are old');
  await page.getByLabel('Others take, MB/s').fill('60');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('two drives are old')).toBeVisible();
  await expect(page.getByText('other clients take 60 MB/s')).toBeVisible();
});

test('a volume is measured: the plan before, the curve during, the answer and its proof after', async ({
  page,
}) => {
  const folder = await testFolder('reader');
  await addStandIn(page, 'Reader A', folder, 'Card reader, UHS-I bus', 'Card');
  await openVolume(page, 'Reader A');
  await expect(page.getByText('Not measured yet')).toBeVisible();
  await expect(
    page.getByText(/Writes 1\.0\sGB of test files into .*reader.*leaves at least .* and removes them/),
  ).toBeVisible();
  await measure(page, 'Read', 200, 2);
  await expect(page.getByRole('heading', { name: /Repeat 1 of 2/ })).toBeVisible();
  await expect(page.getByRole('progressbar', { name: 'Progress' })).toBeVisible();
  await expect(page.getByLabel('Conditions').first()).toContainText('Reader A');
  await expect(page.getByTestId('answer')).toContainText(/^Reads [\d.]+\sMB\/s sustained/);
  await expect(page.getByText('simulated', { exact: true })).toBeVisible();
  await expect(page.getByText(/^Cold: /)).toBeVisible();
  await expect(page.getByRole('img', { name: 'Throughput of 2 repeats over time' })).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Raw record' }).click();
  expect((await download).suggestedFilename()).toMatch(/^navvy-throughput-.*\.csv$/);
  expect(await testFilesIn(folder)).toEqual([]);
  await page.getByRole('link', { name: 'Reader A' }).click();
  await expect(page.getByRole('table', { name: 'Storage trials' }).getByRole('row')).toHaveCount(2);
  await page.goto('/storage');
  await expect(page.getByRole('article', { name: 'Reader A' })).toContainText('measured');
});

test('a write test is cancelled, killed, and pulled away from: each says so and leaves nothing', async ({
  page,
}) => {
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
  await expect(
    page.getByRole('alert').filter({ hasText: 'would leave less than the reserve' }),
  ).toBeVisible();
});

test('a runner killed in a write test comes back, closes the trial and removes its files', async ({
  page,
}) => {
  const folder = await testFolder('disk');
  await addStandIn(page, 'Field disk', folder, 'Card reader, UHS-I bus', 'External');
  await openVolume(page, 'Field disk');
  const id = await measure(page, 'Write', 3_000, 1, 60);
  await untilBytesMove(id);
  process.kill((await query<{ pid: number }>('select pid from runners'))[0]!.pid, 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'This trial was interrupted' })).toBeVisible();
  expect(await testFilesIn(folder)).toEqual([]);
});

test('streams carried are found and set beside the arithmetic', async ({ page }) => {
  const folder = await testFolder('streams');
  await mkdir(folder, { recursive: true });
  await copyFile(join(media, 'small/TW_TEST_0003.mov'), join(folder, 'TW_TEST_0003.mov'));
  await addStandIn(page, 'Office store', folder, '1 Gb/s Ethernet, normal frames');
  await expect(
    page.getByRole('article', { name: 'Office store' }).getByRole('link', { name: '1 clip' }),
  ).toBeVisible();
  await openVolume(page, 'Office store');
  await page.getByLabel('Each number for, s').fill('2');
  await page.getByLabel('Try at most, streams').fill('2');
  await page.getByRole('button', { name: 'Find the number of streams' }).click();
  await expect(page.getByTestId('answer')).toContainText(/Arithmetic says \d+\./);
  await expect(page.getByRole('table', { name: 'Numbers of streams tried' })).toContainText('MB/s');
});

test('a clip played from a simulated volume says so wherever its result shows', async ({ page }) => {
  const folder = await testFolder('sim');
  await copyFile(join(media, 'small/TW_TEST_0003.mov'), join(folder, 'TW_SIM_0003.mov'));
  await addStandIn(page, 'Far store', folder, '1 Gb/s Ethernet, normal frames');
  await expect(
    page.getByRole('article', { name: 'Far store' }).getByRole('link', { name: '1 clip' }),
  ).toBeVisible();
  await chooseTrial(page, 'TW_SIM_0003');
  await expect(page.getByRole('combobox', { name: 'Clip' })).toContainText('simulated');
  await page.getByRole('button', { name: 'Play and measure' }).click();
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(page.getByText('simulated', { exact: true })).toBeVisible();
  await expect(page.getByText(/simulated: 1 Gb\/s Ethernet/)).toBeVisible();
  await page.goto('/trials');
  await expect(
    page.getByRole('table', { name: 'Trials' }).getByRole('row').filter({ hasText: 'TW_SIM_0003' }),
  ).toContainText('simulated');
});

test('a staircase finds how many requests a volume needs under way, and its cache is held against going past it', async ({
  page,
}) => {
  await openVolume(page, 'Shuttle SSD');
  await page.getByRole('radio', { name: 'Requests under way' }).click();
  await page.getByLabel('Moves in all, MB').fill('60');
  await page.getByLabel('or each step takes, s').fill('5');
  await expect(page.getByText('finds the fewest that give the full rate')).toBeVisible();
  await page.getByRole('form', { name: 'Measure' }).getByRole('button', { name: 'Measure' }).click();
  await page.waitForURL(/\/storage\/trials\/[0-9a-f]+$/);
  await expect(page.getByTestId('answer')).toContainText(/requests? under way/);
  const steps = page.getByRole('table', { name: 'Rate by requests under way' });
  await expect(steps.locator('tbody tr')).toHaveCount(7);
  await expect(steps.getByText('enough')).toHaveCount(1);

  await openVolume(page, 'Shuttle SSD');
  await page.getByRole('button', { name: 'Past the cache and through it' }).click();
  await page.waitForURL(/\/trials\/plans\/[0-9a-f]+$/);
  await expect(page.getByRole('columnheader', { name: 'System cache' })).toBeVisible();
  await expect(page.getByRole('cell', { name: 'through it' })).toHaveCount(2);
  await page.getByRole('button', { name: 'Cancel' }).click();
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/storage',
    `/storage/volumes/${await idOf("volumes where name = 'Harbour store'")}`,
    ...(await Promise.all(
      [
        `kind = 'throughput' and status = 'done'`,
        `kind = 'streams-carried' and status = 'done'`,
        `kind = 'throughput' and status = 'cancelled'`,
        `kind = 'throughput' and status = 'crashed'`,
      ].map(async (which) => `/storage/trials/${await idOf(`trials where ${which}`)}`),
    )),
  ]);
});
