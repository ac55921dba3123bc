import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { addStandIn, ensureVolume, idInAddress, query, testFilesIn, testFolder } from './helpers';

const storageStatus = async (id: string) =>
  (await query<{ status: string }>('select status from trials where id = $1', [id]))[0]?.status;

test.beforeEach(async ({ page }) => ensureVolume(page));

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
  return idInAddress(page);
}

test('a card is copied with a pause and a kill in between, verified, and never overwrites', async ({
  page,
}) => {
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
  await expect(page.getByRole('heading', { name: 'This trial was interrupted' })).toBeVisible();
  expect(await testFilesIn(target)).toEqual([]);
  await page.getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    /^2 of 2 files, 330\.0\sMB in all, copied and verified\./,
  );
  expect(await storageStatus(id)).toBe('done');
  await expect(
    page
      .getByRole('table', { name: 'Files of this copy' })
      .getByRole('row')
      .filter({ hasText: 'clips/b.mov' }),
  ).toContainText('copied');
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
  const machine = page.getByLabel('Machine hashes, measured, MB/s');
  const [newest] = await query<{ rate: string }>(
    "select round((summary#>>'{work,hash,bytes}')::numeric / (summary#>>'{work,hash,us}')::numeric) as rate from trials where kind = 'copy' and summary is not null order by created_at desc limit 1",
  );
  await expect(machine).toHaveValue(newest!.rate);
  await machine.fill('1500'); // what this machine hashes differs from day to day
  const day = page.getByTestId('day');
  await expect(day).toHaveText(
    '5:07:06 for the day’s cards, limited by the reader. A reader twice as fast saves 2:03:05.',
  );
  await page.getByLabel('Reader and link').selectOption({ label: 'Card reader, UHS-II bus' });
  await expect(day).toHaveText(
    '2:32:23 for the day’s cards, limited by the cards. A destination twice as fast saves 26:49.',
  );
  await machine.fill('700');
  await expect(day).toHaveText(
    '2:44:34 for the day’s cards, limited by the cards. A machine twice as fast saves 12:11.',
  );
  await expect(page.getByRole('table', { name: 'Readers compared' })).toContainText('UHS-I bus');
  await page
    .getByLabel('Destination', { exact: true })
    .selectOption({ label: 'Day store (forecast, simulated)' });
  await expect(page.getByLabel('takes, MB/s')).toHaveValue('1177');
  await page.getByLabel('Cards').fill('none');
  await expect(page.getByText('Give every figure as a number above 0')).toBeVisible();
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/storage/copies',
    `/storage/trials/${await idOf("trials where kind = 'copy' and status = 'done'")}`,
  ]);
});
