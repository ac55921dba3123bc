'use client';
import { count, dateTime } from '@/core/format';
import { Download } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { MediaRef, Timeline } from '@/core/timeline/model';
import { relink } from '@/core/timeline/relink';
import { addressOf, callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { FormError, TextField } from '../parts/Field';
import type { RelinkReport } from '@/server/timelines/interchange';
import { mediaRefOf } from '@/core/timeline/mediaRef';
import { useSend } from '../useSend';
import type { Edit } from './useTimeline';
import { MediaMatches } from './MediaMatches';
import { ClipChoice } from '../parts/ClipChoice';
import { SelectField } from '../parts/Select';

interface VersionRow {
  readonly number: number;
  readonly name: string | null;
  readonly createdAt: Date | string;
}

interface InterchangeProps {
  readonly id: string;
  readonly timeline: Timeline;
  readonly storeNow: () => Promise<void>;
  /** Takes a document that the server has saved. */
  readonly adopt: (document: Timeline, revision: number, what: string) => void;
  /** Puts an older document in as an edit. */
  readonly restore: (document: Timeline, name: string) => void;
  readonly edit: Edit;
}

/** Versions, missing media, and files for other programs. */
export function Interchange(props: InterchangeProps) {
  return (
    <div className="grid gap-4 lg:grid-cols-3">
      <Versions {...props} />
      <Relink {...props} />
      <Export {...props} />
    </div>
  );
}

function Versions({ id, storeNow, restore }: InterchangeProps) {
  const [rows, setRows] = useState<readonly VersionRow[] | null>(null);
  const [name, setName] = useState('');
  const { busy, error, send } = useSend();
  const load = () => {
    callApi('GET /api/timelines/{id}/versions', { ids: { id } }).then(setRows, () => setRows([]));
  };
  useEffect(load, [id]);
  const keep = async () => {
    await storeNow();
    if (await send('POST /api/timelines/{id}/versions', { ids: { id }, body: { name } })) {
      setName('');
      load();
    }
  };
  return (
    <section aria-label="Versions" className="text-sm">
      <h2 className="text-sm">Versions</h2>
      <p className="text-xs text-muted">
        Every edit is saved. A version is kept for each trial, and when you name one.
      </p>
      <form
        className="mt-2 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <TextField
          label="Name for the current state"
          value={name}
          onChange={setName}
          className="flex-1"
          invalid={error?.field === 'name'}
        />
        <Button type="submit" disabled={busy}>
          Save
        </Button>
      </form>
      <FormError message={error?.message} />
      <ul className="mt-2 max-h-40 overflow-y-auto border bg-surface">
        {rows?.length === 0 && <li className="px-2 py-1 text-muted">none yet</li>}
        {rows?.map((row) => (
          <li key={row.number} className="flex items-center gap-2 border-b px-2 py-1 last:border-b-0">
            <span className="figure">{row.number}</span>
            <span className="min-w-0 flex-1 truncate">{row.name ?? 'played in a trial'}</span>
            <span className="figure text-xs text-muted">{dateTime(row.createdAt)}</span>
            <button
              type="button"
              className="underline decoration-edge underline-offset-4"
              onClick={() => {
                void callApi('GET /api/timelines/{id}/versions/{number}', {
                  ids: { id, number: row.number },
                }).then((document) => restore(document, `version ${row.number}`));
              }}
            >
              Go back to it
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Relink({ id, timeline, storeNow, adopt, edit }: InterchangeProps) {
  const { busy, error, send } = useSend();
  const [report, setReport] = useState<RelinkReport | null>(null);
  const missing = Object.entries(timeline.media).filter(([, { clipId }]) => clipId === null);
  const link = (mediaId: string, ref: MediaRef | null | undefined) => {
    if (ref) edit((document) => relink(document, mediaId, ref), `Link ${ref.name} by hand`);
  };
  const search = async () => {
    await storeNow();
    const next = await send('POST /api/timelines/{id}/relink', { ids: { id } });
    if (!next) return;
    setReport(next);
    const linked = next.found.length;
    adopt(next.document, next.revision, `Link ${linked} ${linked === 1 ? 'medium' : 'media'}`);
  };
  const choices = report?.choices ?? [];
  const toChoose = new Set(choices.map(({ mediaId }) => mediaId));
  return (
    <section aria-label="Media" className="text-sm">
      <h2 className="text-sm">Media</h2>
      <p className="text-xs text-muted">
        {missing.length === 0
          ? `All ${count(Object.keys(timeline.media).length)} media are linked to clips of the library.`
          : `${count(missing.length)} of ${count(Object.keys(timeline.media).length)} media are missing; their items are hatched.`}
      </p>
      <Button className="mt-2" disabled={busy} onClick={() => void search()}>
        Look for missing media
      </Button>
      <FormError message={error?.message} />
      {missing
        .filter(([mediaId]) => !toChoose.has(mediaId))
        .slice(0, mostByHand)
        .map(([mediaId, ref]) => (
          <ClipChoice
            key={mediaId}
            label={`${ref.name} is`}
            value={null}
            onChange={(clip) => link(mediaId, mediaRefOf(clip))}
          />
        ))}
      {missing.length > mostByHand && (
        <p className="mt-1 text-xs text-muted">
          {count(mostByHand)} of {count(missing.length)} are listed. Link some to see the others.
        </p>
      )}
      {report && (
        <div role="status" className="mt-2">
          <MediaMatches
            report={report}
            chosen={Object.fromEntries(
              choices.map(({ mediaId }) => [mediaId, timeline.media[mediaId]?.clipId ?? '']),
            )}
            onChoose={(mediaId, clipId) =>
              link(
                mediaId,
                choices
                  .find((choice) => choice.mediaId === mediaId)
                  ?.files.find(({ ref }) => ref.clipId === clipId)?.ref,
              )
            }
            missing="Scan the volume that holds them, then look again, or link them by hand."
          />
          {report.found.length > 0 && <p className="mt-1 text-xs text-muted">Ctrl+Z takes the links back.</p>}
          {report.found.length + report.missing.length + choices.length === 0 && <p>Nothing was missing.</p>}
        </div>
      )}
    </section>
  );
}

/** Most media that are linked by hand at a time. */
const mostByHand = 20;

function Export({ id, timeline, storeNow }: InterchangeProps) {
  const [format, setFormat] = useState<'otio' | 'edl'>('otio');
  const [track, setTrack] = useState(timeline.tracks[0]?.id ?? '');
  const [losses, setLosses] = useState<readonly string[] | null>(null);
  const query = useMemo(() => (format === 'edl' ? { format, track } : { format }), [format, track]);
  useEffect(() => {
    let current = true;
    const timer = setTimeout(() => {
      void storeNow()
        .then(() =>
          callApi('GET /api/timelines/{id}/export', { ids: { id }, query: { ...query, losses: '' } }),
        )
        .then(
          (told) => {
            if (current) setLosses(told.losses);
          },
          () => undefined,
        );
    }, 300);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [id, query, storeNow, timeline]);
  return (
    <section aria-label="Export" className="text-sm">
      <h2 className="text-sm">Export</h2>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <SelectField
          label="Form"
          value={format}
          onChange={(value) => setFormat(value)}
          options={[
            ['otio', 'OpenTimelineIO (.otio)'],
            ['edl', 'CMX 3600 (.edl)'],
          ]}
          className="w-52"
        />
        {format === 'edl' && (
          <SelectField
            label="Track"
            value={track}
            onChange={setTrack}
            options={timeline.tracks.map(({ id: trackId, name }) => [trackId, name])}
            className="w-24"
          />
        )}
        <LinkButton href={addressOf('GET /api/timelines/{id}/export', { ids: { id }, query })}>
          <Download aria-hidden className="size-4" />
          Save the file
        </LinkButton>
      </div>
      <div className="mt-2 text-xs" role="status">
        {losses === null ? null : losses.length === 0 ? (
          <p className="text-muted">The file carries all of this timeline.</p>
        ) : (
          <>
            <p>The file does not carry:</p>
            <ul className="list-disc pl-4">
              {losses.map((loss) => (
                <li key={loss}>{loss}</li>
              ))}
            </ul>
          </>
        )}
      </div>
    </section>
  );
}
