import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { writeTestMedia } from '@/engine/testing/testMedia';
import { splitTake } from '@/engine/testing/splitTake';
import { expectAccessible } from './access';
import { beginTrial, clipId, ensureVolume, query, statusOf, testFolder } from './helpers';

/*
 * What cameras, scanners and renderers hand over besides single files: transport streams of cards, and a folder of frames.
 */

const rows = (page: Page) => page.getByRole('table', { name: 'Clips', exact: true }).locator('tbody tr');

async function addVolume(page: Page, name: string, folder: string, clips: number): Promise<void> {
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByLabel('Folder on this host').fill(folder);
  await page.getByRole('radio', { name: 'External' }).click();
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(
    page
      .getByRole('article', { name })
      .getByRole('link', { name: clips === 1 ? '1 clip' : `${clips} clips` }),
  ).toBeVisible();
}

/** Plays a clip with every frame shown, however late on a slow machine, and gives what came of it. */
async function playWhole(page: Page, clip: string) {
  await page.goto(`/trials?clip=${clip}`);
  await page.getByText('Further conditions').click();
  await page.getByRole('radio', { name: 'Show every frame' }).click();
  const trial = await beginTrial(page);
  await expect.poll(() => statusOf(trial)).toBe('done');
  await expect(page.getByTestId('answer')).toContainText('Every frame was shown at');
  const [found] = await query<{ slots: number; shown: number; wrong: number }>(
    `select (summary->>'slots')::int as slots, (summary->>'shown')::int as shown, (summary->>'wrong')::int as wrong
       from trials where id = $1`,
    [trial],
  );
  return found;
}

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

test('a card’s transport stream and a folder of frames are scanned, known, and played to the end', async ({
  page,
}) => {
  const folder = await testFolder('camera');
  const frames = join(folder, 'SH010');
  await mkdir(frames);
  const picture = { pixelFormat: 'rgb24', width: 320, height: 180, frames: 24 };
  await writeTestMedia(join(frames, 'plate.%04d.png'), {
    ...picture,
    encoder: 'png',
    muxOptions: { start_number: '1001' },
  });
  await rm(join(frames, 'plate.1010.png'));
  await writeTestMedia(join(folder, '00001.MTS.m2ts'), {
    ...picture,
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    frames: 50,
    bFrames: 2,
    audio: true,
    options: { preset: 'ultrafast' },
  });
  await addVolume(page, 'Card reader', folder, 2);
  await page.goto('/media');
  await page.getByLabel('Volume').selectOption({ label: 'Card reader' });
  await expect(rows(page)).toHaveCount(2);
  await expect(rows(page).filter({ hasText: 'plate.####.png' })).toContainText('PNG8-bit RGB');
  await expect(rows(page).filter({ hasText: '00001.MTS.m2ts' })).toContainText('H.264');

  // The sequence: what is missing, what its rate is, and that it can be set.
  const id = await clipId('SH010/plate.####.png');
  await page.goto(`/media/clips/${id}`);
  const warnings = page.getByRole('list', { name: 'Warnings' });
  await expect(warnings).toContainText('Missing between its frames: 1010.');
  await expect(warnings).toContainText('24 frames a second is assumed');
  await expect(page.getByRole('region', { name: 'File' })).toContainText(
    '23 files, numbered 1001 to 1024; 1010 missing',
  );
  await page.getByRole('form', { name: 'Rate' }).getByRole('combobox').selectOption({ label: '25' });
  await page.getByRole('button', { name: 'Set rate' }).click();
  await expect(page.getByTestId('answer')).toContainText('25 per second');
  await expect(warnings).not.toContainText('is assumed');
  await expectAccessible(page, [`/media/clips/${id}`]);

  for (const clip of [id, await clipId('00001.MTS.m2ts')]) {
    // Where a frame is missing, the one before is shown, and told of.
    expect(await playWhole(page, clip)).toEqual(
      clip === id ? { slots: 24, shown: 23, wrong: 1 } : { slots: 50, shown: 50, wrong: 0 },
    );
  }

  // Read as a player would from a volume: its files, one by one.
  await page.goto(`/media/clips/${id}`);
  await page.getByRole('button', { name: 'Open and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText('ms');
});

test('an interlaced tape is played field by field, and at half scale with its fields apart', async ({
  page,
}) => {
  const folder = await testFolder('tape');
  await writeTestMedia(join(folder, 'tape.mov'), {
    encoder: 'prores_ks',
    pixelFormat: 'yuv422p10le',
    width: 320,
    height: 180,
    frames: 25,
    interlaced: 'top',
    options: { profile: '2' },
  });
  await addVolume(page, 'Tape', folder, 1);
  await page.goto(`/trials?clip=${await clipId('tape.mov')}`);
  await page.getByText('Further conditions').click();
  await page.getByRole('radio', { name: 'Show every frame' }).click();
  await page.getByRole('radio', { name: 'One slot a field' }).click();
  const trial = await beginTrial(page);
  await expect.poll(() => statusOf(trial)).toBe('done');
  await expect(page.getByRole('main')).toContainText('50 per second');
  const conditions = page.getByRole('region', { name: 'Conditions' });
  await expect(conditions).toContainText('deinterlaced: a slot shows the field of its time');
  await expect(conditions).toContainText('16 bits a channel');
  const [found] = await query<{ slots: number; shown: number }>(
    `select (summary->>'slots')::int as slots, (summary->>'shown')::int as shown from trials where id = $1`,
    [trial],
  );
  expect(found).toEqual({ slots: 50, shown: 50 });
  await expectAccessible(page, [`/trials/${trial}`]);

  await page.goto(`/trials?clip=${await clipId('tape.mov')}`);
  await page.getByRole('radio', { name: 'Half' }).click();
  const half = await beginTrial(page);
  await expect.poll(() => statusOf(half)).toBe('done');
  await expect(conditions).toContainText('both in one picture, scaled apart');
});

test('sound goes along with a clip, is told, and can be switched off and on again', async ({ page }) => {
  const folder = await testFolder('sound');
  await writeTestMedia(join(folder, 'sound.mov'), {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    frames: 50,
    audio: 'aac',
    options: { preset: 'ultrafast' },
  });
  await addVolume(page, 'Sound card', folder, 1);
  const clip = await clipId('sound.mov');
  const conditions = page.getByRole('region', { name: 'Conditions' });
  expect(await playWhole(page, clip)).toEqual({ slots: 50, shown: 50, wrong: 0 });
  await expect(conditions).toContainText(/stereo AAC, 48.kHz: read, decoded, resampled and mixed/);
  await expect(page.getByRole('region', { name: 'Figures' })).toContainText(/Sound under-runs.*a slot takes/);
  await expect(page.getByRole('list', { name: 'Legend of the ribbon' })).toContainText('sound not ready');
  await page.keyboard.press('End');
  await expect(page.getByTestId('readout')).toContainText(/slot 49.*sound: read .*decode .*mix /);
  await expectAccessible(page, [new URL(page.url()).pathname]);

  await page.goto(`/trials?clip=${clip}`);
  await page.getByText('Further conditions').click();
  await page.getByRole('radio', { name: 'Off', exact: true }).click();
  const silent = await beginTrial(page);
  await expect.poll(() => statusOf(silent)).toBe('done');
  await expect(page.getByText('Sound was off.')).toBeVisible();
  await expect(page.getByRole('list', { name: 'Legend of the ribbon' })).not.toContainText('sound');
  await page.getByRole('button', { name: 'Play it with sound' }).click();
  await page.waitForURL((url) => !url.pathname.endsWith(silent));
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(conditions).toContainText('mixed to stereo');
});

test('a take that the camera split over three files is one clip, and its parts say so', async ({ page }) => {
  const folder = await testFolder('split');
  await splitTake(folder, ['00001.m2ts', '00002.m2ts', '00003.m2ts'], [24, 48]);
  await addVolume(page, 'Split card', folder, 4);
  await page.goto('/media');
  await page.getByLabel('Volume').selectOption({ label: 'Split card' });
  await expect(rows(page)).toHaveCount(4);
  await expect(rows(page).filter({ hasText: 'part 2 of 3' })).toContainText('00002.m2ts');
  const part = await clipId('00002.m2ts');
  await page.goto(`/media/clips/${part}`);
  await expect(page.getByRole('list', { name: 'Warnings' })).toContainText(
    'part 2 of 3 of 00001.m2ts to 00003.m2ts, which is listed and plays as one clip',
  );
  const take = await clipId('00001.m2ts to 00003.m2ts');
  await page.goto(`/media/clips/${take}`);
  await expect(page.getByTestId('answer')).toContainText('72 frames');
  await expect(page.getByRole('region', { name: 'File' })).toContainText('00003.m2ts');
  expect(await playWhole(page, take)).toEqual({ slots: 72, shown: 72, wrong: 0 });
  // A part that is gone: what is left is two parts, and no take is listed that cannot be played.
  await rm(join(folder, '00002.m2ts'));
  await page.goto('/storage');
  const card = page.getByRole('article', { name: 'Split card' });
  await card.getByRole('button', { name: 'Scan' }).click();
  await expect(card).toContainText('2 with a problem');
  await page.goto(`/media/clips/${take}`);
  await expect(page.getByText('The last scan did not find this file')).toBeVisible();
});
