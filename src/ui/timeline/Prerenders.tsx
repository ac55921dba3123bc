'use client';
import { count, dateTime, size } from '@/core/format';
import { Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useCallback, useEffect, useState } from 'react';
import { intermediateWords } from '@/core/tasks/prerender';
import type { PrerenderState } from '@/server/timelines/prerenders';
import { callApi } from '../api';
import { ConfirmButton } from '../parts/Confirm';
import { useEvents } from '../shell/events';
import type { PrerenderView } from '../pages';

const stateWords: Readonly<Record<PrerenderState, string>> = {
  current: 'current',
  stale: 'stale: this part has changed since',
  missing: 'its file is gone',
};

/** What of a timeline was rendered ahead, and whether it still holds what the timeline shows. Nothing where nothing was. */
export function Prerenders({
  timelineId,
  isSaved,
  timecodeAt,
}: {
  timelineId: string;
  /** Asked for again when what was edited is saved. */
  isSaved: boolean;
  timecodeAt: (slot: number) => string;
}) {
  const [rows, setRows] = useState<readonly PrerenderView[]>([]);
  const load = useCallback(() => {
    callApi('GET /api/timelines/{id}/prerenders', { ids: { id: timelineId } }).then(
      ({ prerenders }) => setRows(prerenders),
      () => undefined, // the shell says that Navvy does not answer
    );
  }, [timelineId]);
  useEffect(() => {
    if (isSaved) load();
  }, [isSaved, load]);
  useEvents((event) => {
    if (event.type === 'trial-status' && event.kind === 'pre-render' && event.status === 'done') load();
  });
  if (rows.length === 0) return null;
  const current = rows.filter(({ state }) => state === 'current');
  return (
    <section aria-label="Pre-rendered" className="border bg-surface text-sm">
      <p className="px-3 py-2 text-muted">
        <span className="font-semibold text-ink">Pre-rendered</span>{' '}
        {current.length === rows.length
          ? 'Used by playback and exports that are told to show it from there.'
          : `${count(current.length)} of ${count(rows.length)} can be used by playback and exports that are told to.`}
      </p>
      <table aria-label="Pre-rendered parts" className="w-full">
        <thead>
          <tr className="border-y text-left text-xs text-muted">
            {['From', 'To', 'State', 'Intermediate', 'Made of', 'Volume', 'Size', 'Made', ''].map((name) => (
              <th
                key={name}
                scope="col"
                className={`px-3 py-1.5 font-normal ${name === 'Size' ? 'text-right' : ''}`}
              >
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <PrerenderRow
              key={row.id}
              row={row}
              timelineId={timelineId}
              timecodeAt={timecodeAt}
              onRemoved={load}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function PrerenderRow({
  row,
  timelineId,
  timecodeAt,
  onRemoved,
}: {
  row: PrerenderView;
  timelineId: string;
  timecodeAt: (slot: number) => string;
  onRemoved: () => void;
}) {
  return (
    <tr className="border-b last:border-b-0">
      <td className="figure px-3 py-1">{timecodeAt(row.from)}</td>
      <td className="figure px-3 py-1">{timecodeAt(row.to)}</td>
      <td className={`px-3 py-1 ${row.state === 'current' ? '' : 'text-signal-text'}`}>
        {stateWords[row.state]}
      </td>
      <td className="whitespace-nowrap px-3 py-1">{intermediateWords(row.intermediate)}</td>
      <td className="px-3 py-1">{row.read}</td>
      <td className="max-w-48 truncate px-3 py-1" title={`${row.volume}: ${row.path}`}>
        {row.volume}
      </td>
      <td className="figure whitespace-nowrap px-3 py-1 text-right">{size(row.bytes)}</td>
      <td className="whitespace-nowrap px-3 py-1">
        <Link
          prefetch={false}
          href={`/trials/tasks/${row.trialId}`}
          className="underline decoration-edge underline-offset-4"
        >
          {dateTime(row.createdAt)}
        </Link>
      </td>
      <td className="px-1 py-1 text-right">
        <ConfirmButton
          label={`Remove what was rendered from ${timecodeAt(row.from)}`}
          title="Remove this pre-render?"
          consequence={`Its file of ${size(row.bytes)} on ${row.volume} is removed. Trials that used it keep what they measured.`}
          verb="Remove"
          act={async () => {
            await callApi('DELETE /api/timelines/{id}/prerenders/{clipId}', {
              ids: { id: timelineId, clipId: row.id },
            });
            onRemoved();
          }}
        >
          <Trash2 aria-hidden className="size-4" />
        </ConfirmButton>
      </td>
    </tr>
  );
}
