/** @jest-environment jsdom */
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useMemo } from 'react';
import type { LiveCounters } from '@/engine/playback/spec';
import { ConditionStrip } from './ConditionStrip';
import { useCommandList, useCommands } from '../keys/commands';
import { Sections } from './Sections';
import { useFollowedTrial } from './useFollowedTrial';
import { useLive } from './useLive';
import { LiveFrame } from '../trial/LiveFrame';
import type { Answer } from '../api';
import { trialKinds } from '@/core/kinds/kinds';
import type { LiveProgress } from '@/server/platform/events';
import {
  connection,
  event,
  inBrowser,
  read,
  Refusal,
  server,
  settle,
  show,
  status,
} from '../testing/livePage';

inBrowser();

type Thing = Answer<'GET /api/looks'>;
/** Something to be kept fresh, with a word to know it by. */
const thing = (name: string): Thing => [{ id: 'look', name, dimensions: 3, size: 17, createdAt: '' }];
function Live({ initial }: { initial: Thing }) {
  const [things] = useLive(initial, 'GET /api/looks', ({ type }) => type === 'plan');
  return <p>It is {things[0]?.name}.</p>;
}
const counters = (slot: number): LiveCounters => ({
  slot,
  slotCount: 48,
  shown: slot,
  dropped: 2,
  settled: slot,
  achievedRate: 22.4,
  depths: { read: 1, decoded: 0, ready: 0 },
  cpuUs: 0,
});

describe('data that a page was made with', () => {
  test('is fetched again for events that concern it, when the connection comes back, and by who joins an open stream', async () => {
    let fetched = 0;
    server(({ path }) => (path === '/api/looks' ? thing(`fetched ${++fetched}`) : undefined));
    const { again } = await show(<Live initial={thing('as drawn')} />);
    expect(read()).toContain('It is as drawn.');
    await connection(true);
    expect(read()).toContain('It is fetched 1.');
    await event({ type: 'clips' });
    expect(fetched).toBe(1);
    await event({ type: 'plan', planId: 'p' });
    expect(read()).toContain('It is fetched 2.');
    // Another page opens in the same window: what was told since its data was made reached nobody.
    await again(<Live key="other" initial={thing('as drawn before the event')} />);
    expect(read()).toContain('It is fetched 3.');
    await connection(false);
    expect(fetched).toBe(3);
  });

  test('keeps the newest answer, whichever comes last, and what it shows when there is none', async () => {
    const waiting: ((thing: Thing) => void)[] = [];
    server(({ path }) =>
      path === '/api/looks'
        ? new Promise<Thing>((resolve) => {
            waiting.push(resolve);
          })
        : undefined,
    );
    await show(<Live initial={thing('as drawn')} />);
    await event({ type: 'plan', planId: 'p' });
    await event({ type: 'plan', planId: 'p' });
    waiting[1]!(thing('the second'));
    waiting[0]!(thing('the first'));
    await settle();
    expect(read()).toContain('It is the second.');
    server(({ path }) => (path === '/api/looks' ? new Refusal('gone') : undefined));
    await event({ type: 'plan', planId: 'p' });
    expect(read()).toContain('It is the second.');
  });

  test('of a trial is fetched again when the rig’s status says otherwise', async () => {
    let fetched = 0;
    const reload = () => {
      fetched++;
      return Promise.resolve();
    };
    function Followed({ trialStatus }: { trialStatus: string }) {
      useFollowedTrial('t1', trialStatus, reload);
      return null;
    }
    server(({ path }) =>
      path === '/api/status'
        ? { ...status, running: { id: 't1', name: 'a.mov', what: 'Trial', href: '/trials/t1' } }
        : undefined,
    );
    const { again } = await show(<Followed trialStatus="queued" />);
    await settle();
    expect(fetched).toBe(1);
    await again(<Followed trialStatus="running" />);
    await again(<Followed trialStatus="done" />);
    expect(fetched).toBe(1);
  });
});

describe('the condition strip', () => {
  const running = {
    ...status,
    queued: 2,
    running: { id: 't1', name: 'TW_WALL_0107.mov', what: 'Trial', href: '/trials/t1' },
  };

  test('says rig, power, load by others, what runs with its time left, and the queue', async () => {
    server(({ path }) => (path === '/api/status' ? running : undefined));
    await show(<ConditionStrip />);
    await connection(true);
    await event({ type: 'load', othersLoad: 0.01, trialLoad: 0, freeMemoryBytes: 1 });
    await event({
      type: 'trial-progress',
      trialId: 't1',
      progress: { counters: counters(24), msLeft: 65_000 },
    });
    for (const part of [
      'Rig Slipway',
      'Power mains',
      'Load by others 1 %',
      'Trial TW_WALL_0107.mov 1:05 left',
      'Queue 2 waiting',
    ])
      expect(read().replaceAll(' ', '')).toContain(part.replaceAll(' ', ''));
    expect(screen.queryByRole('alert')).toBeNull();
    await event({ type: 'load', othersLoad: 0.6, trialLoad: 0, freeMemoryBytes: 1 });
    expect(read()).toContain('60 % disturbs');
    // When the trial ends its time left goes, also before the next one tells its own.
    await event({ type: 'trial-status', trialId: 't1', kind: 'playback', volumeIds: [], status: 'done' });
    expect(read()).not.toContain('left');
  });

  test('beside a running trial stands what passes the network to its volumes, until it ends', async () => {
    server(({ path }) => (path === '/api/status' ? running : undefined));
    await show(<LiveFrame trial={{ id: 't1', status: 'running' }} now="Repeat 1 of 3" />);
    await connection(true);
    const load = { type: 'load', othersLoad: 0, trialLoad: 0, freeMemoryBytes: 1 } as const;
    await event({ ...load, link: null });
    expect(screen.queryByTestId('link')).toBeNull();
    const link = { names: '10.0.0.5 over eth9', linkBytesPerSecond: 31e6, trialMovedBytesPerSecond: 24e6 };
    await event({ ...load, link });
    expect(screen.getByTestId('link').textContent).toMatch(
      /^Network to 10\.0\.0\.5 over eth9: 31\.0\sMB\/s, by any program; the trial reads and writes 24\.0\sMB\/s$/,
    );
    await event({ type: 'trial-status', trialId: 't1', kind: 'throughput', volumeIds: [], status: 'done' });
    expect(screen.queryByTestId('link')).toBeNull();
  });

  test('says what is away: Navvy, its database, its runner; and what may slow the rig', async () => {
    await show(<ConditionStrip />, { ...status, power: 'battery', runner: 'silent' });
    server(({ path }) =>
      path === '/api/status' ? { ...status, power: 'battery', runner: 'silent' } : undefined,
    );
    await connection(true);
    expect(read()).toContain('battery may slow the rig');
    expect(screen.getByRole('alert').textContent).toContain('runner is not there');
    await connection(false);
    expect(screen.getByRole('alert').textContent).toBe('Navvy does not answer. Trying again.');
    server(() => new Refusal('The database does not answer.'));
    await connection(true);
    expect(screen.getByRole('alert').textContent).toBe('The database does not answer. Trying again.');
    server(() => undefined);
    await connection(true);
    expect(screen.queryByRole('alert')).toBeNull();
  });

  test.each(trialKinds)('shows the time left of a %s trial until it ends', async (kind) => {
    const ended = { type: 'trial-status', trialId: 't1', kind, volumeIds: [] } as const;
    server(({ path }) => (path === '/api/status' ? running : undefined));
    await show(<ConditionStrip />);
    const progress = { msLeft: 125_000 } as LiveProgress;
    await event({ type: 'trial-progress', trialId: 't1', progress });
    expect(read()).toContain('2:05 left');
    await event({ ...ended, status: 'running' });
    await event({ ...ended, trialId: 't2', status: 'queued' }); // another that waits is none of its
    expect(read()).toContain('2:05 left');
    await event({ ...ended, status: 'cancelled' });
    expect(read()).not.toContain('left');
  });
});

test('sections say what each has, or what is missing for the next', async () => {
  const empty = {
    ...status,
    volumes: 0,
    clips: 0,
    timelines: 0,
    results: 0,
    briefs: 0,
    ownBriefs: 0,
    selfCheck: 'never' as const,
  };
  server(({ path }) => (path === '/api/status' ? empty : undefined));
  await show(<Sections onPalette={() => undefined} onKeys={() => undefined} />, empty);
  for (const part of [
    'not self-checked yet',
    'add a volume',
    'no clips yet',
    'none yet',
    'ready',
    'no result yet',
    'no brief yet',
  ])
    expect(read()).toContain(part);
  expect(screen.getByRole('link', { current: 'page' }).textContent).toContain('Trials');
  server(({ path }) =>
    path === '/api/status' ? { ...status, volumes: 1, briefs: 2, queued: 3 } : undefined,
  );
  await event({ type: 'clips' });
  for (const part of [
    'self-check passed',
    '1 volume',
    '3 clips',
    '1 timeline',
    '3 waiting',
    '4 results',
    '2 briefs',
  ])
    expect(read()).toContain(part);
});

describe('keys', () => {
  function Keys({ name, done }: { name: string; done: string[] }) {
    useCommands(
      useMemo(
        () => [
          {
            id: 'go',
            label: `Go, ${name}`,
            group: 'Test',
            key: 'g',
            run: () => {
              done.push(`${name} g`);
            },
          },
          {
            id: 'find',
            label: 'Find',
            group: 'Test',
            key: 'Ctrl+k',
            run: () => {
              done.push(`${name} Ctrl+k`);
            },
          },
          {
            id: 'big',
            label: 'Big',
            group: 'Test',
            key: 'Shift+R',
            run: () => {
              done.push(`${name} Shift+R`);
            },
          },
        ],
        [name, done],
      ),
    );
    return null;
  }
  function List() {
    return (
      <ul>
        {useCommandList().map(({ id, label }, at) => (
          <li key={`${id}${at}`}>{label}</li>
        ))}
      </ul>
    );
  }

  test('run the newest command of the page, and none while a person types or a dialog is open', async () => {
    const done: string[] = [];
    const user = userEvent.setup();
    const { again } = await show(
      <>
        <Keys name="page" done={done} />
        <Keys name="panel" done={done} />
        <input aria-label="Name" />
        <div role="dialog">
          <button type="button">Keep</button>
        </div>
        <List />
      </>,
    );
    await user.keyboard('g');
    await user.keyboard('{Shift>}R{/Shift}');
    expect(done).toEqual(['panel g', 'panel Shift+R']);
    await user.click(screen.getByLabelText('Name'));
    await user.keyboard('g{Control>}k{/Control}');
    expect(done.slice(2)).toEqual(['panel Ctrl+k']); // the letter was typed
    await user.click(screen.getByRole('button', { name: 'Keep' }));
    await user.keyboard('g');
    expect(done).toHaveLength(3);
    expect(screen.getAllByRole('listitem').map(({ textContent }) => textContent)).toContain('Go, panel');
    await again(
      <>
        <Keys name="page" done={done} />
        <List />
      </>,
    );
    await user.keyboard('g');
    expect(done.at(-1)).toBe('page g');
    expect(screen.getAllByRole('listitem').map(({ textContent }) => textContent)).not.toContain('Go, panel');
  });
});
