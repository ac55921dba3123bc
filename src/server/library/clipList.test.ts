import fc from 'fast-check';
import { originalFirst } from '@/core/media/footage';
import { rational } from '@/core/time/rational';
import { changeFaults, markMissing, removeMissingClips, saveClip, updateClips } from '@/db/queries/clips';
import { saveGroups } from '@/db/queries/footage';
import { thisRigId } from '@/engine/rig';
import { firstClip, libraryCsv, readLibrary, type LibraryQuery } from './clipList';
import { emptyVolume, newId, onTestDatabase } from '../testing/testDatabase';

onTestDatabase();

const identity = {
  scan: 'progressive',
  timing: { constant: true, missing: 0, duplicate: 0, shortestMs: 40, longestMs: 40 },
  colour: { transfer: 'PQ (ST 2084)' },
  audio: [],
  pixelAspect: { num: 1, den: 1 },
  rotation: 0,
  alpha: false,
  missingFrames: 0,
  edits: null,
  indexAtEnd: false,
};
const structure = { intra: true, keyInterval: null, hasBFrames: false, reorderDepth: 0 };

interface Made {
  readonly path: string;
  readonly width?: number;
  readonly height?: number;
  readonly mean?: number;
  readonly contentHash?: string;
  readonly frames?: number;
}

/** Saves a clip as a scan would. @returns its id */
async function clip(
  volumeId: string,
  { path, width = 1920, height = 1080, mean = 50e6, contentHash, frames = 100 }: Made,
) {
  const id = newId('clip');
  const format = {
    container: 'MOV',
    codec: 'ProRes',
    profile: 'LT',
    bitDepth: 10,
    chroma: '4:2:2',
    width,
    height,
  };
  await saveClip(
    {
      id,
      volumeId,
      path,
      sizeBytes: 1_000,
      modifiedAt: new Date(),
      status: 'ready',
      contentHash: contentHash ?? id,
      format: { ...format, rate: rational(25) },
      structure,
      identity: identity as never,
      frames,
      meanBitsPerSecond: mean,
      peakBitsPerSecond: mean,
    },
    null,
  );
  return id;
}

/** A volume that words find, and all that is asked is narrowed to. */
async function shelf() {
  const { id } = await emptyVolume();
  const read = (query: LibraryQuery = {}) => readLibrary({ volume: id, ...query });
  const paths = async (query: LibraryQuery = {}) => (await read(query)).rows.map(({ path }) => path);
  return { id, read, paths };
}

test('one row a piece of footage: the original, with copies and renditions folded under it', async () => {
  const { id, read } = await shelf();
  const original = await clip(id, { path: 'day 1/A.mov', contentHash: 'same' });
  const copy = await clip(id, { path: 'safe/A.mov', contentHash: 'same' });
  const proxy = await clip(id, { path: 'A_proxy.mov', width: 960, height: 540 });
  const alone = await clip(id, { path: 'B.mov' });
  await saveGroups(await thisRigId(), [
    { footageId: newId('footage'), name: 'A', joining: [proxy, copy, original] },
  ]);
  const page = await read();
  expect(page).toMatchObject({ total: 2, clips: 4, page: 1 });
  const [first, second] = page.rows;
  expect([first?.id, first?.role, first?.renditions]).toEqual([original, 'original', 3]);
  expect(first?.others.map((other) => [other.id, other.role])).toEqual([
    [copy, 'copy'],
    [proxy, 'rendition'],
  ]);
  expect([second?.id, second?.others]).toEqual([alone, []]);
  // Narrowed, a row stands where the first that matches does, and still says what it is of how many.
  const [narrowed] = (await read({ text: 'proxy' })).rows;
  expect([narrowed?.id, narrowed?.role, narrowed?.renditions, narrowed?.others]).toEqual([
    proxy,
    'rendition',
    3,
    [],
  ]);
  expect((await read({ by: 'file' })).rows.map((row) => row.id).toSorted()).toEqual(
    [original, copy, proxy, alone].toSorted(),
  );
});

test('words find what stands in a row: names, format, warnings, the volume; all of them, and as they are', async () => {
  const { id, paths } = await shelf();
  const a = await clip(id, { path: 'Kite_50%.mov' });
  await clip(id, { path: 'wall.mov', width: 1281 });
  expect(await paths({ text: 'KITE' })).toEqual(['Kite_50%.mov']);
  expect(await paths({ text: '50%' })).toEqual(['Kite_50%.mov']);
  expect(await paths({ text: 'e_5' })).toEqual(['Kite_50%.mov']);
  expect(await paths({ text: 'i_e' })).toEqual([]);
  expect(await paths({ text: 'prores  wall' })).toEqual(['wall.mov']);
  expect(await paths({ text: 'odd raster' })).toEqual(['wall.mov']);
  expect(await paths({ state: 'warned' })).toEqual(['wall.mov']);
  expect(await paths({ text: 'PQ 1920x1080' })).toEqual(['Kite_50%.mov']);
  // What runs met and what a scan found missing is found as well.
  await changeFaults(a, () => ({ damage: [[3, 4]] }) as never);
  expect(await paths({ text: '2 damaged' })).toEqual(['Kite_50%.mov']);
  await markMissing([a]);
  expect(await paths({ state: 'missing' })).toEqual(['Kite_50%.mov']);
  expect(await paths({ text: 'did not find' })).toEqual(['Kite_50%.mov']);
  await updateClips([a], { path: 'moved.mov', status: 'ready', problem: null });
  expect(await paths({ text: 'moved' })).toEqual(['moved.mov']);
  expect(await paths({ text: 'kite' })).toEqual([]);
  await removeMissingClips([a]);
});

test('pages follow each other without a gap or a row twice, whatever it is sorted by', async () => {
  const { id, read } = await shelf();
  for (let at = 0; at < 23; at++)
    await clip(id, {
      path: `f${at % 4}/T_${at % 5}_${at}.mov`,
      mean: (at % 3) * 1e6,
      width: 640 + (at % 2) * 320,
    });
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom('path', 'raster', 'meanBitsPerSecond', 'codec', 'rate', 'structure', 'notes', 'alpha'),
      fc.constantFrom('asc', 'desc'),
      fc.integer({ min: 1, max: 25 }),
      async (sort, order, size) => {
        const seen: { id: string; meanBitsPerSecond: number | null }[] = [];
        for (let page = 1; page <= Math.ceil(23 / size); page++)
          seen.push(...(await read({ sort, order, size: String(size), page: String(page) })).rows);
        expect(new Set(seen.map((row) => row.id)).size).toBe(23);
        if (sort === 'meanBitsPerSecond') {
          const means = seen.map((row) => row.meanBitsPerSecond ?? 0);
          expect(means).toEqual(means.toSorted((x, y) => (order === 'asc' ? x - y : y - x)));
        }
      },
    ),
    { numRuns: 20 },
  );
  // The last page stands for those beyond.
  expect((await read({ size: '10', page: '9' })).page).toBe(3);
});

test('the database ranks the forms of footage as the core does', async () => {
  const { id, read } = await shelf();
  const forms: Made[] = [
    { path: 'small.mov', width: 640, height: 360, mean: 90e6 },
    { path: 'thin.mov', mean: 10e6 },
    { path: 'thick.mov', mean: 200e6 },
  ];
  const joining: string[] = [];
  for (const form of forms) joining.push(await clip(id, form));
  await saveGroups(await thisRigId(), [{ footageId: newId('footage'), name: 'X', joining }]);
  const best = forms
    .map(({ path, width = 1920, height = 1080, mean = 0 }) => ({
      path,
      pixels: width * height,
      bitDepth: 10,
      meanBitsPerSecond: mean,
    }))
    .toSorted(originalFirst);
  const [row] = (await read()).rows;
  expect([row?.path, ...(row?.others.map(({ path }) => path) ?? [])]).toEqual(best.map(({ path }) => path));
  expect((await read({ sort: 'meanBitsPerSecond' })).rows.map(({ path }) => path)).toEqual(['thick.mov']);
});

test('a form begins with the wanted clip where it plays, else with the first that does', async () => {
  const { id } = await shelf();
  const wanted = await clip(id, { path: 'zz.mov' });
  expect((await firstClip({ id: wanted }))?.id).toBe(wanted);
  await updateClips([wanted], { status: 'unplayable' });
  const other = await firstClip({ id: wanted });
  expect(other?.id).not.toBe(wanted);
  expect(other?.status).toBe('ready');
});

test('a form begins with a still only where there is nothing else', async () => {
  const { id } = await shelf();
  await clip(id, { path: '00.dpx', frames: 1 });
  const [first] = (await readLibrary({ state: 'ready', by: 'file', sort: 'path' })).rows;
  expect(first?.path).toBe('00.dpx');
  const moving = await clip(id, { path: '01.mov' });
  expect((await firstClip())?.id).toBe(moving);
});

test('all files come as CSV, and no cell of it is a formula', async () => {
  const { id } = await shelf();
  await clip(id, { path: '=1+1,"x".mov' });
  let text = '';
  for await (const piece of await libraryCsv({ volume: id })) text += piece;
  const [head, line, ...rest] = text.trim().split('\n');
  expect(head).toMatch(/^id,clip,volume,simulated/);
  expect(line).toContain(`"'=1+1,""x"".mov"`);
  expect(rest).toEqual([]);
});

test('what cannot be asked is named', async () => {
  await expect(readLibrary({ sort: 'colour' })).rejects.toThrow('“sort” is one of path');
  await expect(readLibrary({ size: '501' })).rejects.toThrow('“size” is a whole number');
  await expect(readLibrary({ state: 'so' })).rejects.toThrow('“state” is one of ready');
});
