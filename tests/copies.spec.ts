import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { addStandIn, ensureVolume, idInAddress, query, testFilesIn, testFolder } from './helpers';

const storageStatus = async (id: string) =>
  (await query<{ status: string }>('select status from trials where id = $1', [id]))[0]?.status;

/** Words for the step of a copy that worked longest: which one that is, the disk of the machine decides. */
async function longestStep(id: string): Promise<string> {
  const words = { read: 'reading the card', hash: 'hashing', write: 'writing' };
  const [longest] = await query<{ step: keyof typeof words }>(
    `select step from trials, jsonb_each(summary->'work') as work (step, spent)
     where id = $1 and step <> 'verify' order by (spent->>'us')::numeric desc limit 1`,
    [id],
  );
  return words[longest!.step];
}

test.beforeEach(async ({ page }) => ensureVolume(page));

/** Drops a file onto the page as a person does from another window. */
async function drop(page: Page, name: string, text: string): Promise<void> {
  const dataTransfer = await page.evaluateHandle(
    ([fileName, content]) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([content], fileName));
      return transfer;
    },
    [name, text] as const,
  );
  await page.dispatchEvent('main', 'dragover', { dataTransfer });
  await page.dispatchEvent('main', 'drop', { dataTransfer });
}

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
  await expect(page.getByText('The limit was').locator('..')).toContainText(await longestStep(id));

  await writeFile(join(target, 'cards/B001/clips/a.mov'), 'someone else’s');
  await startCopy(page, 'Card B001', 'Edit room (simulated)', 'cards/B001');
  await expect(page.getByText(/has other files under the names of 1 of 2 \(clips\/a\.mov\)/)).toBeVisible();
  await page.goto('/storage/copies');
  await expect(page.getByRole('table', { name: 'Copies and verifications' }).getByRole('row')).toHaveCount(3);
});

test('a copy is verified later against the list beside it, and against one that is dropped onto any page', async ({
  page,
}) => {
  const target = await testFolder('shelf');
  await addStandIn(page, 'Shelf', target, 'PCIe inside, 4 lanes', 'External');
  await addCard(page, 'Card C001');
  await startCopy(page, 'Card C001', 'Shelf (simulated)', 'cards/C001');
  await expect(page.getByTestId('answer')).toContainText('2 of 2 files');

  await page.goto('/storage/copies');
  const verify = page.getByRole('region', { name: 'Verify a copy' });
  await verify.getByLabel('Volume with the list').selectOption({ label: 'Shelf (simulated)' });
  await verify.getByRole('button', { name: 'Find its hash lists' }).click();
  const list = verify.getByLabel('Hash list', { exact: true });
  await expect(list.locator('option')).toHaveCount(2);
  const [, listPath] = await list
    .locator('option')
    .evaluateAll((options) => options.map((option) => (option as HTMLOptionElement).value));
  expect(listPath).toMatch(/^cards\/C001\/ascmhl\/0001_C001_.*\.mhl$/);
  await list.selectOption(listPath!);
  // What is in it is told before anything is kept.
  await expect(verify.getByText(/ASC MHL 2\.0\): 2 files, 330\.0\sMB/)).toBeVisible();
  await expect(verify.getByLabel('Folder to verify')).toContainText(
    'cards/C001: 2 of 2 files looked for are there',
  );
  const lists = () => query<{ count: string }>('select count(*) from hash_lists');
  expect((await lists())[0]?.count).toBe('0');
  await verify.getByRole('button', { name: 'Verify' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    /^All 2 files, 330\.0\sMB in all, are what the list has\./,
  );
  expect((await lists())[0]?.count).toBe('1');

  // A byte later: the same list, dropped onto another page.
  const clip = join(target, 'cards/C001/clips/a.mov');
  const bytes = await readFile(clip);
  bytes[12_345_678] = 9;
  await writeFile(clip, bytes);
  await writeFile(join(target, 'cards/C001/clips/c.mov'), 'new');
  await page.goto('/rig');
  await drop(page, 'card.mhl', await readFile(join(target, listPath!), 'utf8'));
  const dropped = page.getByRole('dialog', { name: 'Import a file' });
  await dropped
    .getByLabel('Folder to verify')
    .selectOption({ label: 'Shelf (simulated), cards/C001: 2 of 2 files looked for are there' });
  await dropped.getByRole('button', { name: 'Verify' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    '1 of 2 files are what the list has: 1 changed, 2 folders with other hashes; 1 not in the list.',
  );
  const files = page.getByRole('table', { name: 'Files of this verification' });
  await expect(files.getByRole('row').nth(1)).toContainText('changed');
  await expect(files.getByRole('row').filter({ hasText: 'clips/c.mov' })).toContainText('not in the list');

  // The card has what the copy had. Its reader takes its time: the verification is paused, and goes on.
  await page.goto('/rig');
  await drop(page, 'card.mhl', await readFile(join(target, listPath!), 'utf8'));
  await dropped
    .getByLabel('Folder to verify')
    .selectOption({ label: 'Card C001 (simulated), all of it: 2 of 2 files looked for are there' });
  await dropped.getByRole('button', { name: 'Verify' }).click();
  await expect(page.getByRole('heading', { name: /Verifying file 2 of 2: clips\/b\.mov/ })).toBeVisible();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByRole('heading', { name: 'This verification is paused' })).toBeVisible();
  await page.getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    /^All 2 files, 330\.0\sMB in all, are what the list has\./,
  );
});

test('what is dropped is read and told first: look, timeline, what is none of them', async ({ page }) => {
  await page.goto('/storage');
  const dropped = page.getByRole('dialog', { name: 'Import a file' });
  await drop(page, 'evening.cube', 'TITLE "Harbour evening"\nLUT_1D_SIZE 2\n0 0 0\n1 1 1\n');
  await expect(dropped.getByText('curves of 2 points')).toBeVisible();
  const looks = () => query<{ count: string }>("select count(*) from looks where name = 'evening'");
  expect((await looks())[0]?.count).toBe('0');
  await dropped.getByRole('button', { name: 'Import' }).click();
  await expect(dropped.getByText('It is imported')).toBeVisible();
  expect((await looks())[0]?.count).toBe('1');
  await dropped.getByRole('button', { name: 'Close' }).last().click();
  await expect(dropped).toBeHidden();

  await drop(
    page,
    'reel.edl',
    'TITLE: DROPPED REEL\nFCM: NON-DROP FRAME\n001  NOBODY   V     C        01:00:00:00 01:00:02:00 01:00:00:00 01:00:02:00\n',
  );
  await expect(dropped.getByText('Nothing is stored yet.')).toBeVisible();
  await dropped.getByRole('button', { name: 'Discard' }).click();
  await expect(dropped).toBeHidden();
  expect(await query("select 1 from timelines where name = 'DROPPED REEL'")).toEqual([]);

  await drop(page, 'notes.txt', 'The wall camera was late.');
  await expect(dropped.getByRole('alert')).toContainText(
    'notes.txt is none of the files that can be imported here',
  );
  await page.keyboard.press('Escape');
  await expect(dropped).toBeHidden();
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
  await page.getByLabel('Cards', { exact: true }).fill('none');
  await expect(page.getByText('Give every figure as a number above 0')).toBeVisible();
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/storage/copies',
    `/storage/trials/${await idOf("trials where kind = 'copy' and status = 'done'")}`,
  ]);
});
