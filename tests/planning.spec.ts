import { expect, test } from '@playwright/test';
import { expectAccessible } from './access';
import { addStandIn, ensureVolume, testFolder } from './helpers';

test.beforeEach(async ({ page }) => ensureVolume(page));

test('the ladder is read by keyboard and as a table, and formats are added and taken back', async ({
  page,
}) => {
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
  for (
    let text = await answer.textContent();
    !text!.includes('Ladder store');
    text = await answer.textContent()
  ) {
    await page.keyboard.press('ArrowRight');
    await expect(answer).not.toHaveText(text!);
  }
  await expect(answer).toContainText('UHD uncompressed from Ladder store: too slow');
  await page.getByLabel('Streams', { exact: true }).fill('2');
  await expect(answer).toContainText('2 streams of UHD uncompressed');
  await page.getByText('The same as a table').click();
  await expect(
    page.getByRole('table', { name: 'Ladder' }).getByRole('row').filter({ hasText: 'UHD uncompressed' }),
  ).toContainText('too slow');

  await page.getByRole('button', { name: 'Add a format' }).click();
  const form = page.getByRole('form', { name: 'New camera format' });
  await form.getByRole('button', { name: 'Save' }).click();
  await expect(form.getByRole('alert')).toHaveText([
    'Give the format a name.',
    'Bytes per frame must be a number.',
  ]);
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
  const row = (name: string) =>
    table.getByRole('row').filter({ has: page.getByRole('rowheader', { name, exact: true }) });
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

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, ['/storage/ladder', '/storage/planner']);
});
