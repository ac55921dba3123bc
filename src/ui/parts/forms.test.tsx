/** @jest-environment jsdom */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { rational } from '@/core/time/rational';
import type { RigRow } from '@/db/queries/rigs';
import type { LibraryClip } from '@/server/library/clipList';
import type { CopiesPage, VolumePage } from '@/server/library/storage';
import { ConfirmButton } from './Confirm';
import { RepeatSeries } from '../plans/RepeatSeries';
import { RigView } from '../rig/RigView';
import { AddVolume } from '../storage/AddVolume';
import { CopiesView } from '../storage/CopiesView';
import { MeasureForm, OpenClipsForm, StreamsForm } from '../storage/MeasureForm';
import { VolumeView } from '../storage/VolumeView';
import { Annotate } from '../trial/Annotate';
import { StartForm } from '../trials/StartForm';
import {
  connection,
  inBrowser,
  press,
  pushed,
  read,
  Refusal,
  requests,
  server,
  show,
  type,
} from '../testing/livePage';
import { listPart } from '../testing/trialRows';

inBrowser();

const gigabyte = 1e9;
const facts = {
  fileSystem: 'ext4',
  device: '/dev/sda1',
  mountPoint: '/',
  sizeBytes: 1e12,
  freeBytes: 5e11,
  rotational: false,
  writable: true,
};
const volume: VolumePage['volume'] = {
  id: 'v1',
  rigId: 'r',
  name: 'Shuttle SSD',
  kind: 'external',
  path: '/media/shuttle',
  facts,
  link: 'USB 10 Gb/s',
  notes: '',
  price: null,
  standIn: null,
  cacheBytes: 0,
  demo: 0,
  scan: null,
  lastScan: null,
  scannedAt: null,
  createdAt: new Date(0),
};
const format = {
  container: 'MOV',
  codec: 'ProRes',
  profile: 'Standard',
  bitDepth: 10,
  chroma: '4:2:2',
  width: 1920,
  height: 1080,
  rate: rational(24),
};
const clip = (id: string, path: string, change: Partial<LibraryClip> = {}) =>
  ({
    id,
    path,
    volumeId: 'v1',
    volumeName: 'Shuttle SSD',
    status: 'ready',
    format,
    frames: 192,
    peakBitsPerSecond: 187e6,
    sizeBytes: 4e6,
    simulated: false,
    ...change,
  }) as LibraryClip;
const clips = [
  clip('c1', 'wall/TW_WALL_0107.mov'),
  clip('c2', 'kite/TW_KITE_0031.mp4', { simulated: true, volumeName: 'Store' }),
  clip('c3', 'broken.mov', { status: 'unplayable', format: null }),
];
/** A server that has these clips, and takes every trial. */
const library = (found: readonly LibraryClip[]) =>
  server(({ path }) => {
    const { pathname, searchParams } = new URL(path, 'http://here');
    if (pathname !== '/api/clips') return pathname === '/api/trials' ? { id: 't7' } : undefined;
    const rows = found.filter((one) => one.path.toLowerCase().includes(searchParams.get('text') ?? ''));
    return { rows, total: rows.length };
  });
const choose = async (name: string) => {
  await userEvent.click(screen.getByRole('radio', { name }));
};

describe('a new playback trial', () => {
  test('offers what can be played, says how long it takes, and sends what was chosen', async () => {
    library(clips.slice(0, 2));
    await show(<StartForm devices={[]} first={clips[1]!} />);
    const list = screen.getByLabelText('Clip');
    expect(list.textContent).toContain('kite/TW_KITE_0031.mp4');
    expect(list.textContent).toContain('Storesimulated');
    expect(read()).toContain('takes 0:08 once started');
    await userEvent.click(list);
    const offered = within(await screen.findByRole('listbox'));
    expect((await offered.findAllByRole('option')).map(({ textContent }) => textContent)).toEqual([
      expect.stringContaining('Shuttle SSD'),
      expect.stringContaining('Storesimulated'),
    ]);
    await userEvent.type(screen.getByPlaceholderText('Type to find'), 'nothing');
    await screen.findByText('No match.');
    await userEvent.clear(screen.getByPlaceholderText('Type to find'));
    await userEvent.click((await offered.findAllByRole('option'))[0]!);
    expect(screen.getByLabelText('Clip').textContent).toContain('TW_WALL_0107.mov');
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard('3');
    expect(screen.getByRole('radio', { name: 'Quarter' }).getAttribute('aria-checked')).toBe('true');
    await choose('Warm, on purpose');
    await type('Decoder threads', '4x');
    await press('Play and measure');
    expect(screen.getByRole('alert').textContent).toBe('Threads must be a number.');
    expect(requests).toEqual([]);
    await type('Decoder threads', '4');
    await press('Play and measure');
    expect(requests).toEqual([
      {
        method: 'POST',
        path: '/api/trials',
        body: {
          kind: 'playback',
          clipId: 'c1',
          scale: 'quarter',
          policy: 'hold-time',
          warm: true,
          depth: 'kept',
          cache: 'past',
          underWay: null,
          meanwhile: 'nothing',
          sound: 'on',
          decodeOn: [],
          threads: 4,
        },
      },
    ]);
    expect(pushed).toEqual(['/trials/t7']);
  });

  test('asks what becomes of fields of an interlaced clip, and of no other', async () => {
    const tape = clip('c4', 'tape.mov', { scan: 'top field first' });
    library([tape]);
    await show(<StartForm devices={[]} first={clips[0]!} />);
    expect(screen.queryByRole('radio', { name: 'One slot a field' })).toBeNull();
    await userEvent.click(screen.getByLabelText('Clip'));
    await userEvent.click(await within(await screen.findByRole('listbox')).findByRole('option'));
    await choose('One slot a field');
    await press('Play and measure');
    expect(requests[0]?.body).toMatchObject({ clipId: 'c4', fields: 'each' });
  });

  test('is decoded by a device, or by several in the shares that are typed; what gets none is left out', async () => {
    server(({ path }) => (path === '/api/trials' ? { id: 't7' } : undefined));
    const devices = [
      { id: 'device-vaapi', name: 'vaapi', simulated: false },
      { id: 'stand-in-spring', name: 'Spring', simulated: true },
    ];
    const { again } = await show(<StartForm devices={devices} first={clips[0]!} />);
    const by = screen.getByLabelText('Decoded by');
    expect(
      within(by)
        .getAllByRole('option')
        .map(({ textContent }) => textContent),
    ).toEqual(['Software', 'vaapi', 'Spring (simulated)', 'Several, streams shared out']);
    expect(screen.queryByLabelText('Its frames are transferred')).toBeNull();
    await userEvent.selectOptions(by, 'Spring (simulated)');
    await press('Play and measure');
    await again(<StartForm key="anew" devices={devices} first={clips[0]!} />);
    await userEvent.selectOptions(screen.getByLabelText('Decoded by'), 'Several, streams shared out');
    await type('Share of Spring (simulated)', '2');
    await type('Share of Software', '1');
    await type('Share of vaapi', '0');
    await press('Play and measure');
    await again(<StartForm key="scaled" devices={devices} first={clips[0]!} />);
    await userEvent.selectOptions(screen.getByLabelText('Decoded by'), 'Spring (simulated)');
    await userEvent.selectOptions(
      screen.getByLabelText('Its frames are transferred'),
      'Scaled by the device',
    );
    await press('Play and measure');
    expect(requests.map(({ body }) => (body as { decodeOn: unknown }).decodeOn)).toEqual([
      [{ deviceId: 'stand-in-spring', share: 1 }],
      [
        { deviceId: 'software', share: 1 },
        { deviceId: 'stand-in-spring', share: 2 },
      ],
      [{ deviceId: 'stand-in-spring', share: 1, frames: 'scaled' }],
    ]);
    expect(
      screen
        .getByRole('link', { name: 'In software and on every device, side by side' })
        .getAttribute('href'),
    ).toBe('/trials/plans?question=device-out-device-in&subject=clip%3Ac1');
  });

  test('keeps what was chosen when it is refused', async () => {
    server(() => new Refusal('The clip is no longer where it was. Scan its volume again.'));
    await show(<StartForm devices={[]} first={clips[0]!} />);
    await choose('Half');
    await press('Play and measure');
    expect(screen.getByRole('alert').textContent).toContain('Scan its volume again');
    expect(screen.getByRole('radio', { name: 'Half' }).getAttribute('aria-checked')).toBe('true');
    expect(screen.getByRole('button', { name: 'Play and measure' })).toHaveProperty('disabled', false);
  });
});

describe('measuring a volume', () => {
  const measure = (change: Partial<VolumePage['volume']> = {}) => (
    <MeasureForm
      volume={{ ...volume, ...change }}
      clips={clips.slice(0, 2) as unknown as VolumePage['clips']}
    />
  );

  test('says beforehand what it writes, how much, and that it removes it', async () => {
    await show(measure());
    expect(read()).toMatch(
      /Writes 1\.0 GB of test files into \/media\/shuttle, leaves at least .* of the volume free, and removes them when it ends, however it ends\. Reads are cold.* Takes 0:45 at most, and the time to write the file that is read\./,
    );
    await choose('Read while writing');
    expect(read()).toContain('Writes 2.0 GB of test files');
    await choose('Frame-paced');
    expect(read()).toContain('Only reads. Reads are cold');
    expect(screen.getByLabelText('Reads')).toHaveProperty('value', 'c1');
    expect(screen.queryByLabelText('Block')).toBeNull();
    await choose('Random small');
    expect(screen.getByLabelText('Block')).toHaveProperty('value', '4096');
  });

  test('warns of too little room, a read-only volume, and a server that may hold it all', async () => {
    const { again } = await show(measure({ facts: { ...facts, freeBytes: 60 * gigabyte } }));
    await type('Each repeat moves, MB', '90000');
    expect(read()).toMatch(/There is room for .* of test files\. Choose a smaller size or free space\./);
    await again(
      <div key="two">{measure({ facts: { ...facts, writable: false }, cacheBytes: 4 * gigabyte })}</div>,
    );
    expect(read()).toContain('The volume is read-only: read one of its clips.');
    expect(read()).toMatch(/server may hold 4\.0 GB in memory\. Move at least 8\.0 GB/);
    expect(screen.getByLabelText('Reads')).toHaveProperty('value', 'c1');
  });

  test('says at every field at once what is wrong, sends nothing until it is right, then figures as figures', async () => {
    server(({ path }) =>
      path === '/api/trials' ? new Refusal('There is no room for so much.', 'bytes') : undefined,
    );
    await show(measure());
    await choose('Write');
    await type('Repeats', 'many');
    await type('Each repeat moves, MB', '0.2');
    await type('or takes at most, s', '9000');
    await press('Measure');
    expect(requests).toEqual([]);
    expect(screen.getAllByRole('alert').map(({ textContent }) => textContent)).toEqual([
      'Move at least 1 MB.',
      'Take at most two hours.',
      'Repeats must be a number.',
    ]);
    const repeats = screen.getByLabelText('Repeats');
    expect(repeats.getAttribute('aria-invalid')).toBe('true');
    expect(repeats).toHaveProperty('value', 'many');
    expect(document.getElementById(repeats.getAttribute('aria-describedby') ?? '')?.textContent).toBe(
      'Repeats must be a number.',
    );
    await type('Repeats', '2');
    await type('Each repeat moves, MB', '1000');
    await type('or takes at most, s', '15');
    expect(screen.queryByRole('alert')).toBeNull();
    await press('Measure');
    expect(requests[0]?.body).toEqual({
      kind: 'throughput',
      volumeId: 'v1',
      test: 'sequential-write',
      clipId: null,
      blockBytes: 4 * 2 ** 20,
      bytes: gigabyte,
      seconds: 15,
      repeats: 2,
      streams: 2,
      underWay: null,
      cache: 'past',
    });
    // What only the server knows stands at its field too.
    expect(screen.getByRole('alert').textContent).toBe('There is no room for so much.');
    expect(screen.getByLabelText('Each repeat moves, MB').getAttribute('aria-invalid')).toBe('true');
    expect(pushed).toEqual([]);
    server(({ path }) => (path === '/api/trials' ? { id: 's1' } : undefined));
    await type('Each repeat moves, MB', '500');
    await press('Measure');
    expect(pushed).toEqual(['/storage/trials/s1']);
  });

  test('requests under way and the way through the cache are sent where a test has them', async () => {
    server(({ path }) =>
      path === '/api/trials' ? { id: 's1' } : path === '/api/plans' ? { id: 'p1' } : undefined,
    );
    await show(measure());
    await type('Requests under way', '16');
    await choose('Through it');
    expect(read()).toContain('Files are put out of the system’s cache before each repeat');
    await press('Measure');
    await choose('Requests under way');
    expect(screen.queryByLabelText('Repeats')).toBeNull();
    expect(read()).toContain('Reads on with 1, 2, 4, 8, 16, 32, 64 requests under way in turn');
    await press('Measure');
    await choose('Frame-paced');
    expect(screen.queryByRole('radio', { name: 'Through it' })).toBeNull();
    await press('Measure');
    expect(
      requests
        .map(({ body }) => body as { test: string; underWay: unknown; cache: string })
        .map(({ test, underWay, cache }) => [test, underWay, cache]),
    ).toEqual([
      ['sequential-read', 16, 'through'],
      ['staircase', 16, 'through'],
      ['frame-paced', 16, 'past'],
    ]);
    await press('Past the cache and through it');
    expect(requests.at(-1)).toMatchObject({
      path: '/api/plans',
      body: { volumeIds: ['v1'], caches: ['past', 'through'], tests: ['throughput', 'playback'] },
    });
    expect(pushed.at(-1)).toBe('/trials/plans/p1');
  });

  test('streams are found for a clip of the volume, or it says that there is none', async () => {
    server(({ path }) => (path === '/api/trials' ? { id: 's2' } : undefined));
    const { again } = await show(<StreamsForm clips={clips.slice(0, 2) as unknown as VolumePage['clips']} />);
    await userEvent.selectOptions(screen.getByLabelText('Streams of'), 'c2');
    await press('Find the number of streams');
    expect(requests[0]?.body).toEqual({
      kind: 'streams-carried',
      clipId: 'c2',
      seconds: 5,
      mostStreams: 32,
    });
    expect(pushed).toEqual(['/storage/trials/s2']);
    await again(<StreamsForm key="none" clips={[]} />);
    expect(read()).toContain('No clip of this volume is ready. Scan it first.');
    expect(screen.getByRole('button', { name: 'Find the number of streams' })).toHaveProperty(
      'disabled',
      true,
    );
  });

  test('so many of its clips are opened to their first picture, one at a time', async () => {
    server(({ method }) => (method === 'POST' ? { id: 'o1' } : undefined));
    await show(<OpenClipsForm volume={volume} clips={clips.slice(0, 2) as unknown as VolumePage['clips']} />);
    await type('Clips to open', '7');
    await press('Open and measure');
    expect(requests.at(-1)).toMatchObject({
      path: '/api/trials',
      body: { kind: 'opening', clipsOfVolume: volume.id, clips: 7, each: 'picture', lanes: 1 },
    });
  });
});

describe('volumes', () => {
  test('one is added as it is, or behind a model; what was typed stays when it is refused', async () => {
    let done = 0;
    server(({ path }) =>
      path === '/api/volumes'
        ? new Refusal('There is no folder /media/shuttel on this host.', 'path')
        : undefined,
    );
    await show(
      <AddVolume
        onDone={() => {
          done++;
        }}
      />,
    );
    await type('Name', 'Shuttle SSD');
    await type('Folder on this host', '/media/shuttel');
    await choose('Card');
    await press('Add and scan');
    expect(screen.getByLabelText('Folder on this host').getAttribute('aria-invalid')).toBe('true');
    expect(
      [screen.getByLabelText('Name'), screen.getByLabelText('Folder on this host')].map(
        (field) => (field as HTMLInputElement).value,
      ),
    ).toEqual(['Shuttle SSD', '/media/shuttel']);
    expect(done).toBe(0);
    server(({ path }) => (path === '/api/volumes' ? { id: 'v9' } : undefined));
    await type('Folder on this host', '/media/shuttle');
    await choose('Simulated, by a model');
    await press('Add and scan');
    expect(done).toBe(1);
    expect(requests.map(({ body }) => body)).toMatchObject([
      { kind: 'card', path: '/media/shuttel', price: null, cacheGigabytes: 0, standIn: null },
      { path: '/media/shuttle', standIn: { link: expect.any(String) as string } },
    ]);
  });

  test('what a person knows of one is noted, and shown after', async () => {
    const took = (ms: number) => ({ firstByteMs: ms, indexMs: 2 * ms, pictureMs: 10 * ms });
    const page: VolumePage = {
      volume,
      trials: [],
      clips: [],
      opening: {
        clips: 9,
        median: took(4),
        worst: took(30),
        trialId: 'o1',
        at: new Date(0),
        perhapsWarm: false,
      },
    };
    server(({ path, method }) =>
      path !== '/api/volumes/v1'
        ? undefined
        : method === 'GET'
          ? { ...page, volume: { ...volume, price: 480, notes: '2 rotating disks, level 1' } }
          : {},
    );
    await show(<VolumeView initial={page} list={listPart()} />);
    for (const part of ['/media/shuttle', 'ext4 at /', 'USB 10 Gb/s', 'Price not noted', 'Not measured yet'])
      expect(read().replaceAll(' ', '')).toContain(part.replaceAll(' ', ''));
    expect(read()).toMatch(
      /40\.0\sms to the first picture \(first byte 4\.00\sms, index 8\.00\sms\), 300\sms at worst; median of 9 clips/,
    );
    await press('Edit notes');
    await type('Price, EUR', '480');
    await type('Array and drives', '2 rotating disks, level 1');
    await press('Save');
    expect(requests).toMatchObject([
      {
        method: 'PATCH',
        path: '/api/volumes/v1',
        body: { name: 'Shuttle SSD', price: 480, notes: '2 rotating disks, level 1', standIn: null },
      },
    ]);
    expect(read().replaceAll(' ', '')).toMatch(/Price480\s?EUR/);
  });

  test('a card is copied to one or two places that can be written; the card stands first', async () => {
    const at = (id: string, name: string, kind: 'card' | 'internal' | 'network', writable = true) => ({
      ...volume,
      id,
      name,
      kind,
      facts: { ...facts, writable },
      clipCount: 0,
      problemCount: 0,
    });
    const page: CopiesPage = {
      volumes: [
        at('v1', 'Edit room', 'internal'),
        at('v2', 'Store', 'network'),
        at('v3', 'Archive', 'network', false),
        at('v4', 'Card reader', 'card'),
      ],
      latest: [],
      copied: [],
    };
    server(({ path }) =>
      path === '/api/trials'
        ? new Refusal('The folder holds files already.', 'destinations[1].folder')
        : undefined,
    );
    const { again } = await show(<CopiesView page={page} list={listPart()} />);
    expect(screen.getByLabelText('From')).toHaveProperty('value', 'v4');
    expect(
      within(screen.getByLabelText('To'))
        .getAllByRole('option')
        .map(({ textContent }) => textContent),
    ).toEqual(['Edit room', 'Store']);
    await userEvent.selectOptions(screen.getByLabelText('and to'), 'v2');
    const [first, second] = screen.getAllByLabelText('into');
    await userEvent.clear(first!);
    await userEvent.type(first!, 'cards/B002');
    await choose('Do not verify');
    expect(read()).toMatch(
      /Writes into \/media\/shuttle\/cards\/B002 and into \/media\/shuttle\/cards\/A001; overwrites nothing/,
    );
    await press('Copy');
    expect(requests[0]?.body).toEqual({
      kind: 'copy',
      volumeId: 'v4',
      folder: '',
      destinations: [
        { volumeId: 'v1', folder: 'cards/B002' },
        { volumeId: 'v2', folder: 'cards/A001' },
      ],
      verify: false,
    });
    expect([first, second].map((field) => field?.getAttribute('aria-invalid'))).toEqual(['false', 'true']);
    await again(
      <CopiesView key="one" page={{ ...page, volumes: page.volumes.slice(0, 1) }} list={listPart()} />,
    );
    expect(read()).toContain('A copy needs two volumes');
  });
});

describe('results and the rig', () => {
  test('a result is noted and left out only with what the server takes; the reason is asked for', async () => {
    server(({ path }) =>
      path === '/api/trials/t1/note' ? new Refusal('Say why it does not count.', 'excluded') : undefined,
    );
    await show(<Annotate trialId="t1" annotation={null} />);
    expect(screen.getByRole('button', { name: 'Saved', hidden: true })).toHaveProperty('disabled', true);
    await userEvent.click(screen.getByText('Note, or leave out of comparisons'));
    await userEvent.click(screen.getByRole('checkbox', { name: 'Does not count' }));
    await press('Save');
    expect(screen.getByLabelText('Because').getAttribute('aria-invalid')).toBe('true');
    server(({ path }) => (path === '/api/trials/t1/note' ? {} : undefined));
    await type('Because', 'the cable was loose');
    await press('Save');
    expect(requests.at(-1)).toEqual({
      method: 'PUT',
      path: '/api/trials/t1/note',
      body: { note: '', excluded: 'the cable was loose' },
    });
    expect(read()).toContain('This result does not count');
    expect(screen.getByRole('button', { name: 'Saved' })).toHaveProperty('disabled', true);
    // Taken back: it counts again.
    await userEvent.click(screen.getByRole('checkbox', { name: 'Does not count' }));
    await press('Save');
    expect(requests.at(-1)?.body).toEqual({ note: '', excluded: null });
  });

  test('what goes is named before it goes, and stays with its reason where that fails', async () => {
    let fails = true;
    await show(
      <ConfirmButton
        label="Remove this trial"
        title="Remove this trial?"
        consequence="The result of TW_WALL_0107.mov and its trace go."
        verb="Remove"
        act={() => (fails ? Promise.reject(new Error('It is running.')) : Promise.resolve())}
      >
        x
      </ConfirmButton>,
    );
    await press('Remove this trial');
    expect(screen.getByRole('alertdialog').textContent).toContain(
      'The result of TW_WALL_0107.mov and its trace go.',
    );
    await press('Remove');
    expect(screen.getByRole('alert').textContent).toBe('It is running.');
    await press('Keep');
    expect(screen.queryByRole('alertdialog')).toBeNull();
    fails = false;
    await press('Remove this trial');
    await press('Remove');
    expect(screen.queryByRole('alertdialog')).toBeNull();
  });

  test('a trial is repeated as a series of as many as make an interval', async () => {
    server(({ path }) => (path === '/api/plans/series' ? { id: 'p1' } : undefined));
    await show(<RepeatSeries trialId="d1" />);
    await press('Series of');
    expect(requests).toEqual([
      {
        method: 'POST',
        path: '/api/plans/series',
        body: { trialId: 'd1', repeats: 5, mostMadeUp: 2 },
      },
    ]);
    expect(pushed).toEqual(['/trials/plans/p1']);
  });

  const identity = {
    host: 'slipway',
    processor: 'Two-core processor',
    physicalCores: 1,
    logicalCores: 2,
    memoryBytes: 8 * 2 ** 30,
    graphics: [],
    system: 'Debian 12',
    kernel: '6.1',
    machine: 'virtual',
    disks: ['vda, 60 GB'],
    networks: [],
  };
  const rig = { id: 'r', name: 'Slipway', identity, imported: null } as unknown as RigRow;
  const state = {
    at: '',
    power: 'unknown' as const,
    processorGovernor: null,
    loadAverage: 0.4,
    freeMemoryBytes: 4 * 2 ** 30,
    busiest: [{ name: 'backup', share: 0.31 }],
    temperatureCelsius: null,
    clockGigahertz: 2.4,
  };

  test('the rig says what the system tells and what it does not; it is renamed, or keeps its name', async () => {
    const data = { rig, state, selfCheck: null, others: [] };
    server(({ path, method }) =>
      path !== '/api/rig'
        ? undefined
        : method === 'GET'
          ? data
          : new Refusal('Another rig has this name.', 'name'),
    );
    await show(<RigView initial={data} />);
    for (const part of [
      '1, 2 threads',
      '8.0 GiB',
      'none found: decoding and processing run on the processor',
      'vda, 60 GB',
      'backup 31 % of a core',
      '2.40 GHz',
      'The self-check plays a light clip',
    ])
      expect(read()).toContain(part);
    expect(read().match(/not reported by the system/g)).toHaveLength(4); // networks, power, governor, temperature
    await press('Rename');
    await type('Name of the rig', '');
    await press('Save');
    expect(screen.getByRole('alert').textContent).toBe('Give the rig a name.');
    await type('Name of the rig', 'Store');
    await press('Save');
    expect(screen.getByRole('alert').textContent).toBe('Another rig has this name.');
    await press('Cancel');
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Slipway');
    server(({ path, method }) =>
      path !== '/api/rig' ? undefined : method === 'GET' ? { ...data, rig: { ...rig, name: 'Bollard' } } : {},
    );
    await press('Rename');
    await type('Name of the rig', 'Bollard');
    await press('Save');
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Bollard');
  });

  test('a rig that is not written down yet says so; a self-check that is refused says why', async () => {
    server(({ path }) =>
      path === '/api/trials' ? new Refusal('There is no clip to play. Add a volume with media.') : undefined,
    );
    const { again } = await show(<RigView initial={{ rig: null, state, selfCheck: null, others: [] }} />);
    expect(read()).toContain('This rig is being read');
    await again(<RigView key="there" initial={{ rig, state, selfCheck: null, others: [] }} />);
    await connection(true);
    await press('Run the self-check');
    expect(screen.getByRole('alert').textContent).toContain('Add a volume with media');
  });
});
