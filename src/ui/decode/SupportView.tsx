'use client';
import { fixed, times } from '@/core/format';
import Link from 'next/link';
import { useMemo } from 'react';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { FormError } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { useCommands } from '../keys/commands';
import { useLive } from '../shell/useLive';
import { useSend } from '../useSend';
import { checkWords, verdictSigns, verdictWords, isDecodeNews } from './words';
import { WaitingTrials } from './WaitingTrials';
import type { SupportPage } from '../pages';

type Cell = SupportPage['rows'][number]['cells'][number];

/** What was found of all pairs, in a sentence. */
function answerOf(cells: readonly Cell[]): string {
  const measured = cells.filter(({ trial }) => trial !== null).length;
  if (measured === 0) return 'Which device decodes which format is not measured yet';
  const accelerated = cells.filter(({ trial }) => trial?.verdict === 'accelerated').length;
  const fallbacks = cells.filter(({ trial }) => trial?.check === 'silent fallback').length;
  return `${accelerated} of ${measured} measured pairs of format and device are accelerated${fallbacks > 0 ? `; ${fallbacks} fell back to software without reporting it` : ''}`;
}

/** What the button says. @param unknown cells that are neither measured nor under way */
function leftToTest(cells: readonly Cell[], unknown: number): string {
  if (unknown > 0) return `Test ${unknown} unknown ${unknown === 1 ? 'cell' : 'cells'}`;
  if (cells.length === 0) return 'Nothing to test yet';
  return cells.every(({ trial }) => trial !== null) ? 'Every cell is measured' : 'All others are under way';
}

/** Which device decodes which format faster than software: formats by devices, each cell with its evidence. */
export function SupportView({ initial }: { initial: SupportPage }) {
  const [page] = useLive(
    initial,
    'GET /api/decode/support',
    (event) => isDecodeNews(event) || event.type === 'devices' || event.type === 'clips',
  );
  const { busy, error, send } = useSend();
  const { rows, waiting } = page;
  const cells = rows.flatMap((row) => row.cells);
  const unknown = cells.filter(({ trial, underWay }) => trial === null && underWay === null).length;
  const run = useMemo(
    () => (clipIds: readonly string[], deviceIds: readonly string[]) => {
      void send('POST /api/trials', { body: { kind: 'decode-support', clipIds, deviceIds } });
    },
    [send],
  );
  useCommands(
    useMemo(
      () => [
        {
          id: 'run-unknown',
          label: 'Test all formats on all devices',
          group: 'Decode support',
          key: 'r',
          run: () => run([], []),
        },
      ],
      [run],
    ),
  );
  return (
    <div className="flex flex-col gap-5">
      <div className="flex items-start gap-3">
        <h1 className="mr-auto" data-testid="answer">
          {answerOf(cells)}
        </h1>
        <Button look="main" disabled={busy || unknown === 0} onClick={() => run([], [])}>
          {leftToTest(cells, unknown)}
        </Button>
      </div>
      <FormError message={error?.message} />
      <WaitingTrials waiting={waiting} />
      {rows.length === 0 ? (
        <Empty
          title="No format to test yet"
          action={
            <Link prefetch={false} className="underline" href="/storage">
              Add a volume with clips
            </Link>
          }
        >
          Every format of the library is tried on every device: software and device in turn, at least three
          pairs, with an interval on the ratio.
        </Empty>
      ) : (
        <SupportTable page={page} busy={busy} run={run} />
      )}
      <Devices
        page={page}
        onLook={() => {
          void send('POST /api/decode/devices');
        }}
        busy={busy}
      />
    </div>
  );
}

/** Formats by devices. */
function SupportTable({
  page: { rows, columns },
  busy,
  run,
}: {
  page: SupportPage;
  busy: boolean;
  run: (clipIds: readonly string[], deviceIds: readonly string[]) => void;
}) {
  return (
    <div className="overflow-x-auto border bg-surface">
      <table aria-label="Decode support" className="w-full text-sm">
        <thead>
          <tr className="border-b text-left">
            <th scope="col" className="px-3 py-2 text-xs font-normal text-muted">
              Format
            </th>
            {columns.map((device) => (
              <th key={device.id} scope="col" className="px-3 py-2 font-semibold">
                {device.name} {device.simulated && <Simulated />}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.formatClass} className="border-b last:border-b-0">
              <th scope="row" className="px-3 py-2 text-left font-normal">
                <Link
                  prefetch={false}
                  href={`/media/clips/${row.clipId}`}
                  className="underline decoration-edge underline-offset-4"
                >
                  {row.formatClass}
                </Link>
              </th>
              {row.cells.map((cell) => (
                <td key={cell.deviceId} className="px-3 py-2 align-top">
                  <SupportCell
                    cell={cell}
                    busy={busy}
                    onRun={() => run([row.clipId], [cell.deviceId])}
                    label={`${row.formatClass} on ${columns.find(({ id }) => id === cell.deviceId)?.name ?? ''}`}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function SupportCell({
  cell: { trial, underWay },
  busy,
  onRun,
  label,
}: {
  cell: Cell;
  busy: boolean;
  onRun: () => void;
  label: string;
}) {
  if (underWay) return <span className="text-muted">{underWay === 'running' ? 'running' : 'waiting'}</span>;
  if (!trial)
    return (
      <Button className="h-7 px-2 text-xs" disabled={busy} onClick={onRun} aria-label={`Test ${label}`}>
        Test
      </Button>
    );
  const odd = trial.check !== 'agrees';
  return (
    <Link
      prefetch={false}
      href={`/media/decode/${trial.id}`}
      aria-label={`${label}: ${trial.verdict}, ${trial.ratio ? fixed(trial.ratio.value, 2) : ''} times`}
      className="block hover:bg-raised"
    >
      <span className={trial.verdict === 'accelerated' ? 'font-semibold' : ''}>
        <span aria-hidden className="mr-1.5 inline-block w-4 text-center">
          {verdictSigns[trial.verdict]}
        </span>
        {verdictWords[trial.verdict]}
      </span>
      <span className="figure block pl-[22px] text-xs text-muted">
        {trial.ratio &&
          `${times(trial.ratio.value)} (${fixed(trial.ratio.low, 2)}–${fixed(trial.ratio.high, 2)}), ${trial.pairs} pairs`}
        {trial.allRatio && <span className="block">all cores {times(trial.allRatio.value)}</span>}
      </span>
      {odd && <span className="block pl-[22px] text-xs text-signal-text">{checkWords[trial.check]}</span>}
      {trial.doubt && <span className="block pl-[22px] text-xs text-signal-text">{trial.doubt}</span>}
    </Link>
  );
}

/** What this system has to decode with, and what it lacks. */
function Devices({
  page: { devices },
  onLook,
  busy,
}: {
  page: SupportPage;
  onLook: () => void;
  busy: boolean;
}) {
  const missing = devices.filter(({ usable }) => !usable);
  const hasReal = devices.some(({ usable, simulated }) => usable && !simulated);
  const reasons = new Set(missing.map(({ about }) => about.split(' The codec library')[0]));
  return (
    <section aria-label="Decode devices">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="mr-auto">Decode devices</h2>
        <Button look="quiet" disabled={busy} onClick={onLook}>
          Detect again
        </Button>
      </div>
      <ul className="border bg-surface text-sm">
        {devices
          .filter(({ usable }) => usable)
          .map((device) => (
            <li key={device.id} className="border-b px-3 py-2 last:border-b-0">
              <b className="font-semibold">{device.name}</b> {device.simulated && <Simulated />}{' '}
              <span className="text-muted">{device.about}</span>
            </li>
          ))}
        {missing.length > 0 && (
          <li className="px-3 py-2">
            <details>
              <summary>
                None of the {hasReal && 'other '}
                {missing.length} kinds of device that the codec library knows can be used here.{' '}
                <span className="text-muted">{[...reasons].join(' ')}</span>
              </summary>
              <dl className="mt-2 grid grid-cols-[max-content_1fr] gap-x-4 gap-y-1 text-muted">
                {missing.map(({ id, name, about }) => (
                  <div key={id} className="contents">
                    <dt className="figure">{name}</dt>
                    <dd>{about}</dd>
                  </div>
                ))}
              </dl>
            </details>
          </li>
        )}
        {devices.length === 0 && <li className="px-3 py-2 text-muted">Devices are being detected.</li>}
      </ul>
      <p className="mt-2 text-xs text-muted">
        Stand-ins are simulated: their frames are really decoded beforehand and delivered at modelled times;
        what they do not support falls back to software silently, as on real devices.
      </p>
    </section>
  );
}
