import { existsSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { expectAccessible } from './access';
import { chooseFrom, addMediaVolume, clipId, ensureVolume, openVolume, query } from './helpers';

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

test('a clip is exported: chosen as a delivery, changed, proved, and told what held it back', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media eleven');
  await page.goto(`/media/clips/${await clipId('TW_TEST_0002.mp4')}`);
  await page.getByRole('link', { name: 'Export' }).click();
  const form = page.getByRole('form', { name: 'Export' });
  await expect(form.getByLabel('Clip or timeline')).toContainText('TW_TEST_0002.mp4');
  await form.getByLabel('Delivery').selectOption('Master');
  await expect(form.getByLabel('Class')).toHaveValue('3');
  await expect(form).toContainText('Master: kept, and source of all later copies.');

  await form.getByLabel('Delivery').selectOption('Review copy');
  await form.getByLabel('CRF, 0 best').fill('90');
  await expect(form.getByLabel('Delivery')).toHaveValue('');
  await form.getByLabel('To volume').selectOption({ label: 'Media eleven' });
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(form.getByRole('alert')).toContainText('The CRF of H.264 lies from 0 (best) to 51.');
  await form.getByLabel('CRF, 0 best').fill('28');
  await form.getByRole('button', { name: 'Save as a delivery' }).click();
  await form.getByLabel('Its name').fill('Review copy');
  await form.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(form.getByText(/already exists and stays as it is/)).toBeVisible();
  await form.getByLabel('Its name').fill('Rushes');
  await form.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(form.getByRole('button', { name: 'Remove this delivery' })).toBeVisible();
  await form.getByLabel('Delivery').selectOption('Master');
  await form.getByLabel('Delivery').selectOption('Rushes');
  await expect(form.getByLabel('CRF, 0 best')).toHaveValue('28');
  await form.getByText('Further conditions').click();
  await form.getByLabel('Keep the result').check();
  await form.getByLabel('Measure the loss').check();
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(/Exported 4\.8.s of media in .* times its length/);
  await expect(page.getByRole('region', { name: 'Proof' })).toContainText(
    'frame i is frame i for 120 of 120',
  );
  await expect(page.getByRole('region', { name: 'Proof' })).toContainText('SSIM 0.');
  const table = page.getByRole('table', { name: 'What held it back' });
  await expect(table.getByRole('row')).toHaveCount(6);
  await expect(table).toContainText('of the time');
  await expect(page.getByText(/^exports\/TW_TEST_0002_h264/)).toBeVisible();
  const result = new URL(page.url()).pathname;

  // It stands among the tasks, and can be asked for again as it was.
  const again = page.getByRole('button', { name: 'Repeat', exact: true });
  await again.click();
  await expect(page.getByTestId('answer')).toBeVisible();
  await page.goto('/trials/tasks');
  await expect(page.getByRole('table', { name: 'Tasks' }).getByRole('row')).toHaveCount(3);
  await expectAccessible(page, ['/trials/tasks', result]);
});

test('a simulated encoder is chosen where it takes what is written, and its result says that it is one', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media nineteen');
  await page.goto(`/trials/tasks?clip=${await clipId('TW_TEST_0002.mp4')}`);
  const form = page.getByRole('form', { name: 'Export' });
  await form.getByLabel('To volume').selectOption({ label: 'Media nineteen' });
  const encoder = form.getByLabel('Encoder', { exact: true });
  await encoder.selectOption('Neap (simulated)');
  await expect(form.getByLabel('Encoder speed')).toBeHidden();
  await expect(form).toContainText('The encoder is simulated');
  await form.getByLabel('Codec').selectOption('HEVC');
  await expect(encoder.getByRole('option')).toHaveText(['Software', 'Spring (simulated)']);
  await expect(encoder).toHaveValue('');
  await expect(form.getByLabel('Encoder speed')).toBeVisible();
  await form.getByLabel('Codec').selectOption('ProRes');
  await expect(encoder).toBeHidden();
  await form.getByLabel('Delivery').selectOption('Review copy');
  await encoder.selectOption('Neap (simulated)');
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText('Exported');
  await expect(page.getByText(/^Export, H\.264 8-bit 4:2:0, CRF \d+, on Neap \(simulated\)$/)).toBeVisible();
  await expect(page.getByText('yuv420p by Neap (simulated)')).toBeVisible();
  await page.goto('/trials/tasks');
  await expect(page.getByRole('table', { name: 'Tasks' }).getByRole('row').nth(1)).toContainText('simulated');
});

test('an export is watched, and cancelled: nothing of it stays', async ({ page }) => {
  await addMediaVolume(page, 'Media twelve');
  await page.goto(`/trials/tasks?clip=${await clipId('small/TW_TEST_0001.mov')}`);
  const form = page.getByRole('form', { name: 'Export' });
  await form.getByLabel('Codec').selectOption('HEVC');
  await form.getByLabel('Encoder speed').selectOption('thorough');
  await form.getByLabel('CRF, 0 best').fill('0');
  await form.getByLabel('To volume').selectOption({ label: 'Media twelve' });
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(page.getByRole('heading', { name: /^\d+ of 240 frames written$/ })).toBeVisible();
  await expect(page.getByAltText(/Frame \d+ as encoded/)).toBeVisible();
  await expect(page.getByRole('img', { name: 'Frames a second over time' })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText(/Cancelled\. Stopped at \d+\s%, frame \d+, /)).toBeVisible();
  const [volume] = await query<{ path: string }>("select path from volumes where name = 'Media twelve'");
  expect((await readdir(volume!.path)).filter((name) => name.startsWith('.navvy-scratch'))).toEqual([]);
  expect(existsSync(join(volume!.path, 'exports'))).toBe(false);
});

test('a part of a timeline is pre-rendered, played from there, stale after an edit, and removed', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media thirteen');
  const made = await page.request.post('/api/timelines/load', {
    data: { kind: 'grades', clipIds: [await clipId('small/TW_TEST_0001.mov')], count: 2, seconds: 2 },
  });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/timelines/${id}`);
  await page.getByRole('link', { name: 'Pre-render', exact: true }).click();
  const form = page.getByRole('form', { name: 'Pre-render' });
  await form.getByLabel('From slot').fill('900');
  await form.getByLabel('To volume').selectOption({ label: 'Media thirteen' });
  await form.getByRole('button', { name: 'Pre-render and measure' }).click();
  await expect(form.getByRole('alert')).toContainText('The run would begin at slot 900');
  await form.getByLabel('From slot').fill('10');
  await form.getByLabel('Intermediate').selectOption('DNxHR HQX, 10-bit 4:2:2');
  await form.getByRole('button', { name: 'Pre-render and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(/^Pre-rendered .* of media in /);
  await expect(page.getByRole('region', { name: 'Proof' })).toContainText('Proved');

  await page.goto(`/timelines/${id}`);
  const parts = page.getByRole('table', { name: 'Pre-rendered parts' });
  await expect(parts.getByRole('row')).toHaveCount(2);
  await expect(parts).toContainText('current');
  const play = page.getByRole('form', { name: 'Play and measure this timeline' });
  await play.getByText('Further conditions').click();
  await play.getByRole('radio', { name: 'From pre-rendered' }).click();
  await play.getByRole('button', { name: 'Play and measure' }).click();
  await expect(page.getByText(/from pre-rendered/).first()).toBeVisible();
  await expect(page.getByTestId('answer')).toBeVisible();
  const first = page.url();
  await page.getByRole('button', { name: 'Repeat', exact: true }).click();
  await page.waitForURL((url) => url.href !== first);
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(page.getByText(/from pre-rendered/).first()).toBeVisible();

  await page.goto(`/timelines/${id}`);
  await page.getByRole('button', { name: 'Title' }).click();
  await expect(parts).toContainText('stale: this part has changed since');
  await expectAccessible(page, [`/timelines/${id}`, '/trials/tasks?task=pre-render']);
  await page.goto(`/timelines/${id}`);
  await play.getByText('Further conditions').click();
  await play.getByRole('radio', { name: 'From pre-rendered' }).click();
  await play.getByRole('button', { name: 'Play and measure' }).click();
  await expect(play.getByRole('alert')).toContainText('None of its pre-renders can be used: 1 stale.');
  await page.getByRole('button', { name: /^Remove what was rendered/ }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(parts).toBeHidden();
});

test('points are followed through a clip, by progress of frames, and told how many held', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media fourteen');
  await page.goto(`/trials/tasks?task=analysis&clip=${await clipId('small/TW_TEST_0001.mov')}`);
  const form = page.getByRole('form', { name: 'Analysis' });
  await form.getByLabel('To volume').selectOption({ label: 'Media fourteen' });
  await form.getByLabel('Work', { exact: true }).selectOption('Matte by colour');
  await form.getByLabel('Tolerance').fill('2');
  await form.getByRole('button', { name: 'Analyse and measure' }).click();
  await expect(form.getByRole('alert')).toContainText('Tolerance lies from 0.01 to 1.');
  await form.getByLabel('Work', { exact: true }).selectOption('Slow motion, interpolated');
  await form.getByRole('radio', { name: '8 times' }).click();
  await form.getByRole('button', { name: 'Analyse and measure' }).click();
  await expect(page.getByRole('heading', { name: /^\d+ of 1\s913 frames written$/ })).toBeVisible();
  await expect(page.getByAltText(/Frame \d+ as encoded/)).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText(/Cancelled\. Stopped at \d+\s%, frame \d+, while/)).toBeVisible();

  await page.goto(`/trials/tasks?task=analysis&clip=${await clipId('small/TW_TEST_0001.mov')}&to=40`);
  await form.getByLabel('Work', { exact: true }).selectOption('Track points');
  await form.getByLabel('Points').fill('60');
  await form.getByRole('button', { name: 'Analyse and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(/^Tracked points through .* followed to the end/);
  await expect(page.getByRole('region', { name: 'Proof' })).toContainText('Proved');
  await expectAccessible(page, [new URL(page.url()).pathname, '/trials/tasks?task=analysis']);
});

test('a volume’s clips and a timeline are opened cold: first picture, thumbnails, sound, and what held it back', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media seventeen');
  await page.goto('/trials/tasks');
  await page.getByRole('radio', { name: 'Opening' }).click();
  const form = page.getByRole('form', { name: 'Opening' });
  await chooseFrom(form, 'Timeline, volume or clip', 'Clips of Media seventeen');
  await form.getByLabel('Its first clips').fill('0');
  await form.getByRole('button', { name: 'Open and measure' }).click();
  await expect(form.getByRole('alert')).toContainText('Open at least 1 clip.');
  await form.getByLabel('Its first clips').fill('2');
  await form.getByRole('button', { name: 'Open and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    /Opened 2 clips in .*: first picture after .*, all thumbnails/,
  );
  const table = page.getByRole('table', { name: 'What held it back' });
  await expect(table.getByRole('row')).toHaveCount(6);
  await expect(page.getByRole('table', { name: 'By clip' })).toContainText('TW_TEST_0002.mp4');
  await expect(page.getByRole('img', { name: /What was done when/ })).toBeVisible();
  await expect(page.getByText(/dropped from memory first.*at the start: 0\.0/)).toBeVisible();
  const result = new URL(page.url()).pathname;
  await page.getByRole('button', { name: 'Repeat', exact: true }).click();
  await expect(page).not.toHaveURL(result);
  await expect(page.getByTestId('answer')).toContainText('Opened 2 clips');
  await expectAccessible(page, [result, '/trials/tasks?task=opening']);
});

test('a volume’s clips are opened to their first picture, which stands with the volume and with each clip', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media opened');
  await openVolume(page, 'Media opened');
  await expect(page.getByText('Opening a clip').locator('..')).toContainText('not measured');
  const form = page.getByRole('form', { name: 'Opening clips' });
  await form.getByLabel('Clips to open').fill('2');
  await form.getByRole('button', { name: 'Open and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    /Opened 2 clips, each to its first picture: .* in the middle \(first byte .*, index .*\), .* at worst/,
  );
  await expect(page.getByRole('table', { name: 'By clip' }).getByRole('columnheader')).toContainText([
    'Clip',
    'First byte',
    'Index, in all',
    'First picture, after it',
  ]);
  const result = new URL(page.url()).pathname;
  await openVolume(page, 'Media opened');
  await expect(page.getByText(/to the first picture \(first byte .*median of 2 clips/)).toBeVisible();
  await expectAccessible(page, [result, new URL(page.url()).pathname]);
  const [clip] = await query<{ id: string }>(
    "select c.id from clips c join volumes v on v.id = c.volume_id where v.name = 'Media opened' and c.status = 'ready' order by c.path limit 1",
  );
  await page.goto(`/media/clips/${clip!.id}`);
  const opened = page.getByRole('table', { name: 'Opening of this footage' });
  await expect(opened.getByRole('row').filter({ hasText: 'Media opened' })).toContainText(
    /this clip.*ms.*ms.*ms/s,
  );
  await page
    .getByRole('region', { name: 'Opening' })
    .getByRole('button', { name: 'Open and measure' })
    .click();
  await expect(page.getByTestId('answer')).toContainText('Opened 1 clip, each to its first picture');
});

test('a clip is played while previews are drawn, which is a condition, and again without', async ({
  page,
}) => {
  await page.goto(`/trials?clip=${await clipId('small/TW_TEST_0001.mov')}`);
  const form = page.getByRole('form', { name: 'New playback trial' });
  await form.getByText('Further conditions').click();
  await form.getByRole('radio', { name: 'Thumbnails and sound peaks are drawn' }).click();
  await form.getByRole('button', { name: 'Play and measure' }).click();
  await expect(page.getByText('Thumbnails and sound peaks of its clips were drawn meanwhile.')).toBeVisible();
  await expect(
    page.getByText(/round and round on a thread of its own.*: \d+ strips and 0 sound tracks/),
  ).toBeVisible();
  const first = page.url();
  await page.getByRole('button', { name: 'Play it without' }).click();
  await expect(page).not.toHaveURL(first);
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(page.getByText('nothing else is done')).toBeVisible();
});

test('an export is soaked from its result, watched, and says what it sustains', async ({ page }) => {
  await addMediaVolume(page, 'Media eighteen');
  await page.goto(`/trials/tasks?clip=${await clipId('small/TW_TEST_0001.mov')}&to=48`);
  const form = page.getByRole('form', { name: 'Export' });
  await form.getByLabel('Delivery').selectOption('Review copy');
  await form.getByLabel('To volume').selectOption({ label: 'Media eighteen' });
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText('Exported 2.0');
  const soak = page.getByRole('form', { name: 'Soak' });
  await soak.getByLabel('Minutes of the soak').fill('0');
  await soak.getByRole('button', { name: 'Soak for' }).click();
  await expect(soak.getByRole('alert')).toContainText('A soak takes at least 0.1 min.');
  await soak.getByLabel('Minutes of the soak').fill('0.2');
  await soak.getByRole('button', { name: 'Soak for' }).click();
  await expect(page.getByRole('img', { name: 'Pace over the soak' })).toBeVisible();
  await expect(page.getByText(/of 0\.2.min, in pass \d+/)).toBeVisible();
  await expect(page.getByTestId('answer')).toContainText(/Made \d+ times in 1\d\.\d.s\. /);
  await expect(page.getByText(/of the time lay between passes/)).toBeVisible();
  const result = new URL(page.url()).pathname;
  await page.goto('/trials/tasks');
  await expect(page.getByRole('table', { name: 'Tasks' })).toContainText('Soak');
  await expectAccessible(page, [result]);
});
