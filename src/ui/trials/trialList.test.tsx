/** @jest-environment jsdom */
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { TrialListPage } from '@/server/trials/trialList';
import { Empty } from '../parts/Empty';
import { TrialList } from './TrialList';
import { event, inBrowser, press, pushed, read, server, settle, show } from '../testing/livePage';
import { line, listPart } from '../testing/trialRows';

inBrowser();

const rough = {
  ...line,
  id: 't2',
  href: '/trials/t2',
  grade: 'rough',
  answer: '12 of 200 slots dropped, most by processing.',
  values: { dropped: 6 },
  doubt: { word: 'disturbed', reason: 'other processes took 40 % of all cores' },
  excluded: 'the cable was loose',
} as const;
const scrub = {
  ...line,
  id: 't3',
  kind: 'scrub',
  href: '/timelines/tests/t3',
  grade: null,
  status: 'failed',
  answer: 'The volume went away.',
  values: {},
  simulated: true,
  origin: 'imported',
  rig: { id: 'b', name: 'Boathouse' },
} as const;
const choices = {
  volumes: [{ id: 'v1', name: 'Shuttle SSD', simulated: true }],
  rigs: [
    { id: 'r', name: 'Slipway' },
    { id: 'b', name: 'Boathouse' },
  ],
};
const empty = <Empty title="No trial yet">Start one.</Empty>;

/** The server's list, and how it was asked for. */
let asked: string[];
function serves(page: Partial<TrialListPage>): void {
  server(({ path }) => {
    const [route, query = ''] = path.split('?');
    if (route !== '/api/trials') return undefined;
    asked.push(decodeURIComponent(query));
    return { total: 1, page: 1, size: 50, trials: [rough], ...page };
  });
}
beforeEach(() => {
  asked = [];
  window.history.replaceState(null, '', '/trials');
});

const rows = () =>
  within(screen.getByRole('table', { name: 'Trials' }))
    .getAllByRole('row')
    .slice(1);
const choose = async (label: string, name: string) => {
  await userEvent.selectOptions(screen.getByLabelText(label), name);
  await settle();
};

test('each trial says what it was, its result and what to doubt of it; simulated and imported ones say so', async () => {
  await show(<TrialList list={listPart([line, rough, scrub], { choices })} label="Trials" empty={empty} />);
  const [first, second, third] = rows().map(({ textContent }) => textContent);
  expect(first).toMatch(/Playbackfull scale.*TW_KITE_0031\.mov.*Shuttle SSD.*solid/);
  expect(second).toMatch(/rough.*disturbed.*left out.*12 of 200 slots dropped/);
  expect(third).toMatch(/Scrub.*Shuttle SSD, from Boathouse.*simulated.*failed.*The volume went away/);
  expect(within(rows()[2]!).getByRole('link').getAttribute('href')).toBe('/timelines/tests/t3');
  expect(screen.getByText('3 rows')).toBeTruthy();
  // Figures are there to be chosen, not in the way.
  expect(screen.queryByRole('columnheader', { name: 'Dropped slots, %' })).toBeNull();
});

test('the server narrows it by whatever is asked for, and the address keeps it', async () => {
  serves({});
  await show(<TrialList list={listPart([line, rough], { choices })} label="Trials" empty={empty} linked />);
  await choose('Kind', 'Load ramp');
  await choose('Volume', 'Shuttle SSD (simulated)');
  await choose('Rig', 'Boathouse');
  await choose('Result', 'Grade rough');
  await choose('Conditions', 'Disturbed or unsteady');
  expect(asked.at(-1)).toBe('kind=ramp&volume=v1&rig=b&grade=rough&doubt=yes');
  expect(window.location.search).toBe('?kind=ramp&volume=v1&rig=b&grade=rough&doubt=yes');
  expect(rows()).toHaveLength(1);
  await choose('Result', 'Not completed');
  expect(asked.at(-1)).toContain('&status=failed,crashed,hung,interrupted,cancelled&doubt=yes');
  await press('Clear');
  expect(asked.at(-1)).toBe('');
  expect(window.location.search).toBe('');
});

test('a name is looked for at its first letter and when the typing rests; what finds nothing says how to go on', async () => {
  serves({ total: 0, trials: [] });
  await show(<TrialList list={listPart([line], { choices })} label="Trials" empty={empty} />);
  await userEvent.type(screen.getByLabelText('Filter Trials'), 'marsh');
  expect(await screen.findByText('No trial matches')).toBeTruthy();
  await waitFor(() => expect(asked.at(-1)).toBe('subject=marsh'));
  serves({ trials: [line] });
  await press('Show all');
  expect(rows()).toHaveLength(1);
  expect(screen.getByLabelText('Filter Trials')).toHaveProperty('value', '');
});

test('pages are turned at the server; what was chosen on one stays chosen on the next', async () => {
  const first = { total: 101, page: 1, size: 50, trials: [line] };
  serves({ ...first, page: 2, trials: [rough] });
  await show(<TrialList list={listPart([], { choices, first })} label="Trials" empty={empty} />);
  expect(screen.getByRole('button', { name: 'Newer' })).toHaveProperty('disabled', true);
  await userEvent.click(within(rows()[0]!).getByRole('checkbox'));
  await press('Older');
  expect(asked).toEqual(['page=2']);
  expect(read()).toContain('51 to 51 of 101, newest first');
  await userEvent.click(within(rows()[0]!).getByRole('checkbox'));
  await press('Compare 2');
  expect(pushed).toEqual(['/compare?sides=t.t1,t.t2']);
  // Narrowing goes back to the first page.
  await choose('Kind', 'Scrub');
  expect(asked.at(-1)).toBe('kind=scrub');
});

test('rows of what was asked before cannot be chosen while the answer is on its way; chosen ones that it leaves out are counted', async () => {
  let give: (page: unknown) => void = () => undefined;
  server(({ path }) =>
    path.startsWith('/api/trials') ? new Promise((resolve) => (give = resolve)) : undefined,
  );
  await show(<TrialList list={listPart([line, rough], { choices })} label="Trials" empty={empty} />);
  const all = () => screen.getByRole('checkbox', { name: 'Choose all Trials' });
  const table = () => screen.getByRole('table', { name: 'Trials' });
  await userEvent.click(within(rows()[0]!).getByRole('checkbox'));
  await choose('Kind', 'Load ramp');
  expect(table().getAttribute('aria-busy')).toBe('true');
  expect(rows()).toHaveLength(2);
  for (const box of [all(), ...rows().map((row) => within(row).getByRole('checkbox'))]) {
    expect(box).toHaveProperty('disabled', true);
    await userEvent.click(box);
  }
  expect(screen.getByRole('group', { name: 'Actions for Trials' }).textContent).toMatch(/^1 chosen[^,]/);
  give({ total: 1, page: 1, size: 50, trials: [rough] });
  await settle();
  expect(table().getAttribute('aria-busy')).toBe('false');
  expect(read()).toContain('1 chosen, 1 not shown');
  await userEvent.click(all());
  expect(read()).toContain('2 chosen, 1 not shown');
});

test('a list of a section stays within it, with its figures; a trial that begins or ends is fetched', async () => {
  serves({ trials: [rough] });
  const part = listPart([rough], { choices, fixed: { volume: 'v1', kind: 'throughput,copy' } });
  await show(<TrialList list={part} label="Trials" figures={['dropped']} empty={empty} />);
  expect(screen.queryByLabelText('Volume')).toBeNull();
  expect(screen.queryByLabelText('Rig')).toBeNull();
  expect(screen.queryByRole('columnheader', { name: 'Volume' })).toBeNull();
  expect(screen.getByRole('columnheader', { name: 'Dropped slots, %' })).toBeTruthy();
  expect(rows()[0]?.textContent).toContain('6.00');
  await event({ type: 'trial-status', trialId: 't9', kind: 'copy', volumeIds: [], status: 'done' });
  await choose('Kind', 'Copy');
  await choose('Kind', 'Every kind');
  expect(asked).toEqual([
    'volume=v1&kind=throughput,copy',
    'volume=v1&kind=copy',
    'volume=v1&kind=throughput,copy',
  ]);
  const csv = screen.getByRole('link', { name: 'CSV of all' }).getAttribute('href');
  expect(decodeURIComponent(csv!)).toBe('/api/trials?volume=v1&kind=throughput,copy&format=csv');
});

test('where there is none yet the place says what fills it', async () => {
  await show(<TrialList list={listPart()} label="Trials" empty={empty} />);
  expect(read()).toContain('No trial yetStart one.');
  expect(screen.queryByLabelText('Filter Trials')).toBeNull();
});
