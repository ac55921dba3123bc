import { expect, test } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { addMediaVolume, clipId, ensureVolume } from './helpers';

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

test('renditions: made, proved frame by frame, in their footage, and not made twice', async ({ page }) => {
  await addMediaVolume(page, 'Media three');
  await page.goto(`/media/clips/${await clipId('TW_TEST_0002.mp4')}`);
  await page.getByRole('link', { name: 'Make a rendition' }).click();
  const form = page.getByRole('form', { name: 'Make renditions' });
  await expect(form).toContainText(/Clips1 of \d/);
  await form.getByLabel('Preset').selectOption({ label: 'Motion JPEG' });
  await form.getByLabel('To volume').selectOption({ label: 'Media three' });
  await expect(form).toContainText('TW_TEST_0002_mjpeg_half.mov: Motion JPEG, 240x136');
  await form.getByRole('button', { name: 'Make rendition' }).click();
  await expect(page.getByTestId('answer')).toContainText('1 of 1 made.');
  await expect(page.getByTestId('answer')).toContainText('x real time');
  const table = page.getByRole('table', { name: 'Renditions of this batch' });
  await expect(table).toContainText(
    'Frame i is frame i for 120 of 120 frames (by the frame code in the picture).',
  );
  await expect(table).toContainText(/decoding|scaling|encoding|writing/);
  await table.getByRole('link', { name: /proxies\/TW_TEST_0002_mjpeg_half\.mov/ }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText('Made by Navvy');
  await expect(page.getByRole('table', { name: 'Clips of this footage' })).toContainText('original');

  await page.goto(`/media/renditions?clips=${await clipId('TW_TEST_0002.mp4')}`);
  await form.getByLabel('Preset').selectOption({ label: 'Motion JPEG' });
  await form.getByRole('button', { name: 'Make rendition' }).click();
  await expect(page.getByTestId('answer')).toContainText('1 there already');
});

test('a batch is paused, left and found again, continued', async ({ page }) => {
  await addMediaVolume(page, 'Media four');
  await page.goto('/media/renditions');
  const form = page.getByRole('form', { name: 'Make renditions' });
  for (const box of await form
    .getByRole('group', { name: 'Clips' })
    .getByRole('checkbox', { name: 'Media four' })
    .all())
    await box.check();
  await form.getByLabel('Preset').selectOption({ label: 'FFV1 lossless' });
  await form.getByRole('radio', { name: 'Full' }).click();
  await form.getByLabel('To volume').selectOption({ label: 'Media four' });
  await form.getByLabel('Clips at a time').fill('none');
  await form.getByRole('button', { name: 'Make 2 renditions' }).click();
  await expect(form.getByRole('alert')).toContainText('Clips at a time must be a number.');
  await form.getByLabel('Clips at a time').fill('1');
  await form.getByRole('button', { name: 'Make 2 renditions' }).click();
  await page.waitForURL(/\/media\/renditions\/[0-9a-f]+$/);
  const address = page.url();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByRole('heading', { name: /This batch is paused|2 of 2 made/ })).toBeVisible();
  await page.goto('/media');
  await page.goto(address);
  const next = page.getByRole('button', { name: 'Continue' });
  if (await next.isVisible()) await next.click();
  await expect(page.getByTestId('answer')).toContainText('2 of 2 made.');
  await page.getByRole('button', { name: 'Remove this batch' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page).toHaveURL(/\/media\/renditions$/);
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/media/renditions',
    `/media/renditions/${await idOf("trials where kind = 'renditions' and status = 'done'")}`,
  ]);
});
