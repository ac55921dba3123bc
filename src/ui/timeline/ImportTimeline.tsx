'use client';
import Link from 'next/link';
import { useEffect, useEffectEvent, useState } from 'react';
import { count } from '@/core/format';
import { rateLabel } from '@/core/time/rational';
import type { ImportReport } from '@/server/timelines/interchange';
import { useFileText } from '../useFileText';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { SelectField } from '../parts/Select';
import { useSend } from '../useSend';
import { MediaMatches } from './MediaMatches';
import { rateFrom, rateOptions } from './words';

/** Most notes that are drawn; the rest is counted. */
const mostNotes = 100;

/** A timeline's file is read, what of it is kept and lost is told, and then it is imported. @param file one that is there already @param onDiscard when that is not wanted, or is left for the timeline */
export function ImportTimeline({
  file: given = null,
  onDiscard,
}: {
  readonly file?: File | null;
  readonly onDiscard?: () => void;
}) {
  const { busy, error, send } = useSend();
  const [rate, setRate] = useState('24/1');
  const [file, setFile] = useState(given);
  const text = useFileText(file);
  const [report, setReport] = useState<ImportReport | null>(null);
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  const ask = async (store: boolean) => {
    if (!file || text === null) return;
    const body = { fileName: file.name, text, rate: rateFrom(rate), store, chosen };
    const told = await send('POST /api/timelines/import', { body });
    if (told) setReport(told);
  };
  const read = useEffectEvent(() => void ask(false));
  // It is read again at another rate, and as soon as its text is there.
  useEffect(() => {
    if (text !== null) read();
  }, [text, rate]);
  const take = (next: File | null) => {
    if (next === null) onDiscard?.();
    setReport(null);
    setChosen({});
    setFile(next);
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      {given === null && <FileField disabled={busy} onChoose={take} />}
      <SelectField
        label="Rate of an edit list, which it does not carry"
        value={rate}
        onChange={setRate}
        options={rateOptions}
        className="w-72"
      />
      <FormError message={error?.message} />
      {report && (
        <div role="status" className="flex w-full flex-col gap-2 border-l-4 border-signal pl-3 text-sm">
          {report.id === null ? (
            <Before
              fileName={file?.name ?? ''}
              report={report}
              busy={busy}
              onImport={() => void ask(true)}
              onDiscard={() => take(null)}
            />
          ) : (
            <Imported id={report.id} name={report.name} onOpen={onDiscard} />
          )}
          <Notes notes={report.notes} />
          <MediaMatches
            report={report}
            chosen={chosen}
            onChoose={(mediaId, clipId) => setChosen((before) => ({ ...before, [mediaId]: clipId }))}
            missing="Add the volume that holds the media and scan it; then look for missing media in the timeline."
          />
        </div>
      )}
    </div>
  );
}

function FileField({ disabled, onChoose }: { disabled: boolean; onChoose: (file: File | null) => void }) {
  return (
    <label className="block text-sm">
      <span className="mb-1 block text-xs text-muted">OpenTimelineIO (.otio) or CMX 3600 (.edl)</span>
      <input
        type="file"
        accept=".otio,.edl,.json,.txt"
        aria-label="Interchange file"
        disabled={disabled}
        onChange={(event) => {
          onChoose(event.target.files?.[0] ?? null);
          event.target.value = '';
        }}
        className="file:mr-3 file:h-9 file:border file:border-edge file:bg-raised file:px-3 file:text-ink"
      />
    </label>
  );
}

function Imported({ id, name, onOpen }: { id: string; name: string; onOpen: (() => void) | undefined }) {
  return (
    <p>
      {name} is imported. As it came it is kept as a version.{' '}
      <Link prefetch={false} href={`/timelines/${id}`} onClick={onOpen} className="underline">
        Open it
      </Link>
    </p>
  );
}

/** What is in the file, before it is imported. */
function Before({
  fileName,
  report: { name, rate, tracks, items, slots },
  busy,
  onImport,
  onDiscard,
}: {
  readonly fileName: string;
  readonly report: ImportReport;
  readonly busy: boolean;
  readonly onImport: () => void;
  readonly onDiscard: () => void;
}) {
  return (
    <>
      <p>
        <span className="font-semibold">{name}</span> in {fileName}: {count(items)}{' '}
        {items === 1 ? 'item' : 'items'} on {count(tracks)} {tracks === 1 ? 'track' : 'tracks'},{' '}
        {count(slots)} slots at {rateLabel(rate)} per second. Nothing is stored yet.
      </p>
      <div className="flex gap-2">
        <Button look="main" disabled={busy} onClick={onImport}>
          Import
        </Button>
        <Button disabled={busy} onClick={onDiscard}>
          Discard
        </Button>
      </div>
    </>
  );
}

/** What is not kept, or otherwise than it stands in the file. */
function Notes({ notes }: { readonly notes: readonly string[] }) {
  if (notes.length === 0) return <p className="text-xs text-muted">All of the file is kept.</p>;
  return (
    <div className="text-xs">
      <p>What is not kept, or otherwise than it stands in the file:</p>
      <ul className="max-h-48 list-disc overflow-y-auto pl-4">
        {notes.slice(0, mostNotes).map((note) => (
          <li key={note}>{note}</li>
        ))}
      </ul>
      {notes.length > mostNotes && (
        <p className="text-muted">
          {count(mostNotes)} of {count(notes.length)} are listed.
        </p>
      )}
    </div>
  );
}
