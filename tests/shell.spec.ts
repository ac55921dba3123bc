import { expect, test } from '@playwright/test';
import { changeTheme, expectAccessible, expectNoFaults } from './access';

test('sections, palette, key help and theme work by keyboard', async ({ page }) => {
  await page.goto('/trials');
  await expect(page.getByRole('heading', { name: 'Does it play?' })).toBeVisible();
  await expect(page.getByLabel('Conditions')).toContainText('Slipway');
  await page.keyboard.press('Shift+M');
  await expect(page).toHaveURL(/\/media$/);
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('Find an action').fill('rig');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/rig$/);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys of this screen' })).toContainText('Go to Trials');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Light or dark' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'light');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'light');
});

test('nothing is loaded from outside, and pages log no error', async ({ page, baseURL }) => {
  const outside: string[] = [];
  const errors: string[] = [];
  page.on('request', (request) => {
    if (!/^(data|blob):/.test(request.url()) && !request.url().startsWith(baseURL!))
      outside.push(request.url());
  });
  page.on('pageerror', (error) => errors.push(error.message));
  for (const path of [
    '/rig',
    '/storage',
    '/storage/ladder',
    '/storage/planner',
    '/storage/copies',
    '/media',
    '/trials',
  ]) {
    await page.goto(path);
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  }
  expect(outside).toEqual([]);
  expect(errors).toEqual([]);
});

test('an empty Navvy names the way to an own map on its first screen; hidden, it stays so', async ({
  page,
}) => {
  await page.goto('/');
  const steps = page.getByRole('complementary', { name: 'Your first map' });
  await expect(steps).toContainText('From your own clips to your own map');
  await expect(steps.getByRole('listitem')).toHaveCount(5);
  await steps.getByRole('button', { name: 'Hide this hint' }).click();
  await page.goto('/trials');
  await expect(page.getByRole('heading', { name: 'Does it play?' })).toBeVisible();
  await expect(steps).toBeHidden();
  await page.context().clearCookies();
  await page.reload();
  await steps.getByRole('link', { name: 'Start with a folder' }).click();
  await expect(page).toHaveURL(/\/choose\/first$/);
  await expect(steps).toBeHidden();
});

test('names are found from the command list, and what has none says so', async ({ page }) => {
  await page.goto('/rig');
  await page.keyboard.press('Control+k');
  const find = page.getByPlaceholder('Find an action');
  await find.fill('no such name at all');
  await expect(page.getByText('Nothing has this name.')).toBeVisible();
  const { id } = (await (
    await page.request.post('/api/timelines', {
      data: { name: 'Found by its name', rate: { num: 25, den: 1 }, width: 640, height: 360 },
    })
  ).json()) as { id: string };
  await find.fill('by its found');
  await page.getByRole('option', { name: /Found by its name/ }).click();
  await expect(page).toHaveURL(new RegExp(`/timelines/${id}$`));
  await page.request.delete(`/api/timelines/${id}`);
});

test('the rig is renamed, and an empty name is refused with the reason', async ({ page }) => {
  await page.goto('/rig');
  await page.getByRole('button', { name: 'Rename' }).click();
  await page.getByLabel('Name of the rig').fill('  ');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'Give the rig a name.' })).toBeVisible();
  await page.getByLabel('Name of the rig').fill('Slipway, edit room 2');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { name: 'Slipway, edit room 2' })).toBeVisible();
});

test('requests that make no sense are refused in words', async ({ request }) => {
  const refused = async (path: string, data: unknown) => {
    const response = await request.post(path, { data: data as object });
    return [response.status(), ((await response.json()) as { message: string }).message];
  };
  expect(await refused('/api/trials', { kind: 'playback', clipId: 'none', scale: 'full' })).toEqual([
    404,
    'This clip is no longer in the library. Choose another.',
  ]);
  expect(await refused('/api/trials', { kind: 'playback', clipId: 'none', scale: 'huge' })).toEqual([
    400,
    'Choose full, half or quarter.',
  ]);
  expect(await refused('/api/trials', { kind: 'weather' })).toEqual([
    400,
    expect.stringMatching(/^Say which kind of trial: playback, scrub/),
  ]);
  expect(await refused('/api/volumes', { name: 'X', kind: 'internal', path: 'relative/folder' })).toEqual([
    400,
    'Give the folder as a full path that begins with /.',
  ]);
  expect(await refused('/api/trials/none/cancel', {})).toEqual([
    404,
    'There is no trial with this address. It may have been removed.',
  ]);
});

test('key help, palette and empty pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, ['/trials', '/media', '/timelines', '/compare', '/choose', '/storage']);
  for (const _theme of ['one', 'the other']) {
    await changeTheme(page);
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys of this screen' })).toBeVisible();
    await expectNoFaults(page, 'key help');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+k');
    await expect(page.getByPlaceholder('Find an action')).toBeVisible();
    await expectNoFaults(page, 'palette');
    await page.keyboard.press('Escape');
  }
});

test('moving parts stand still for those who ask for it', async ({ page }) => {
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await page.goto('/trials');
  const durations = await page.evaluate(() =>
    [...document.querySelectorAll('*')]
      .map((node) => getComputedStyle(node).transitionDuration)
      .filter((value) => value !== '0s'),
  );
  expect(durations).toEqual([]);
});
