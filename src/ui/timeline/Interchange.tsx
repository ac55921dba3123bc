'use client';
import { dateTime } from '@/core/format';
import { Download } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { Timeline } from '@/core/timeline/model';
import { relink, type RelinkReason } from '@/core/timeline/relink';
import { addressOf, callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { FormError, TextField } from '../parts/Field';
import type { LibraryClip } from '@/server/library/clipList';
import { mediaRefOf } from '@/core/timeline/mediaRef';
import { useSend } from '../useSend';
import type { Edit } from './useTimeline';
import { relinkWords } from './words';
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

interface RelinkAnswer {
  readonly revision: number;
  readonly document: Timeline;
  readonly found: readonly { readonly name: string; readonly by: RelinkReason }[];
  readonly missing: readonly string[];
}

function Relink({ id, timeline, storeNow, adopt, edit }: InterchangeProps) {
  const { busy, error, send } = useSend();
  const [answer, setAnswer] = useState<RelinkAnswer | null>(null);
  const missing = Object.entries(timeline.media).filter(([, { clipId }]) => clipId === null);
  const link = (mediaId: string, clip: LibraryClip) => {
    const ref = mediaRefOf(clip);
    if (ref) edit((document) => relink(document, mediaId, ref), `Link ${ref.name} by hand`);
  };
  const search = async () => {
    await storeNow();
    const next = await send('POST /api/timelines/{id}/relink', { ids: { id } });
    if (!next) return;
    setAnswer(next);
    adopt(next.document, next.revision, 'Relink media');
  };
  return (
    <section aria-label="Media" className="text-sm">
      <h2 className="text-sm">Media</h2>
      <p className="text-xs text-muted">
        {missing.length === 0
          ? `All ${Object.keys(timeline.media).length} media are linked to clips of the library.`
          : `${missing.length} of ${Object.keys(timeline.media).length} media are missing; their items are hatched.`}
      </p>
      <Button className="mt-2" disabled={busy} onClick={() => void search()}>
        Look for missing media
      </Button>
      <FormError message={error?.message} />
      {missing.map(([mediaId, ref]) => (
        <ClipChoice
          key={mediaId}
          label={`${ref.name} is`}
          value={null}
          onChange={(clip) => link(mediaId, clip)}
        />
      ))}
      {answer && (
        <ul role="status" className="mt-2 text-xs">
          {answer.found.map(({ name, by }) => (
            <li key={name}>
              {name}: found by {relinkWords[by]}
            </li>
          ))}
          {answer.missing.map((name) => (
            <li key={name} className="text-signal-text">
              {name}: not found. Scan the volume that holds it, then look again.
            </li>
          ))}
          {answer.found.length + answer.missing.length === 0 && <li>Nothing was missing.</li>}
        </ul>
      )}
    </section>
  );
}

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
