'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useEffectEvent, useMemo, useState } from 'react';
import { count, size } from '@/core/format';
import { plainName } from '@/core/simulated';
import type { HashListReport } from '@/server/library/hashLists';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { SelectField } from '../parts/Select';
import { useSend } from '../useSend';
import { listOrigin } from './listOrigin';
import { useFileText } from '../useFileText';

/** A hash list: a file of this computer, or one that lies on a volume. */
export type ListSource = { readonly file: File } | { readonly volumeId: string; readonly path: string };

interface Sent {
  readonly name?: string;
  readonly text?: string;
  readonly volumeId?: string;
  readonly path?: string;
}

/** Places as a select has them. */
const keyOf = ({ volumeId, folder }: { readonly volumeId: string; readonly folder: string }) =>
  `${volumeId} ${folder}`;

/** What is in a list. */
function ReportWords({ report }: { report: HashListReport }) {
  return (
    <>
      <p role="status">
        <span className="font-semibold">{report.name}</span> ({report.form}): {count(report.files)}{' '}
        {report.files === 1 ? 'file' : 'files'}
        {report.bytes !== null && `, ${size(report.bytes)}`}
        {listOrigin(report)}; hashes: {report.hashes.join(', ') || 'none that can be computed here'}. Nothing
        is stored yet.
      </p>
      {report.notes.length > 0 && (
        <ul className="max-h-40 list-disc overflow-y-auto pl-4 text-xs">
          {report.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
    </>
  );
}

/** Where the files of the list are, to choose one. */
function Places({
  places,
  value,
  onChange,
}: {
  places: HashListReport['places'];
  value: string;
  onChange: (place: string) => void;
}) {
  if (places.length === 0)
    return (
      <p className="text-signal-text">
        No volume here has any of its files. Add the volume that holds the copy, then choose the list again.
      </p>
    );
  return (
    <SelectField
      label="Folder to verify"
      value={value}
      onChange={onChange}
      options={places.map(
        (one) =>
          [
            keyOf(one),
            `${plainName(one.volumeName, one.simulated)}, ${one.folder || 'all of it'}: ${count(one.found)} of ${count(one.of)} files looked for are there`,
          ] as const,
      )}
      className="block"
    />
  );
}

/** A hash list is read, what is in it is told, and a folder is held against it. @param onDone when its verification was started, or is not wanted */
export function VerifyList({ source, onDone }: { readonly source: ListSource; readonly onDone: () => void }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const { file, volumeId, path } = { file: null, volumeId: undefined, path: undefined, ...source };
  const text = useFileText(file);
  const [report, setReport] = useState<HashListReport | null>(null);
  const [place, setPlace] = useState('');
  const read = useEffectEvent(async (sent: Sent) => {
    const told = await send('POST /api/hash-lists', { body: { ...sent, store: false } });
    if (!told) return;
    setReport(told);
    setPlace(told.places[0] ? keyOf(told.places[0]) : '');
  });
  const body = useMemo((): Sent | null => {
    if (file === null) return { volumeId, path };
    return text === null ? null : { name: file.name, text };
  }, [file, volumeId, path, text]);
  useEffect(() => {
    if (body !== null) void read(body);
  }, [body]);
  const verify = async () => {
    const chosen = report?.places.find((one) => keyOf(one) === place);
    if (!body || !chosen) return;
    const kept = await send('POST /api/hash-lists', { body: { ...body, store: true } });
    if (!kept?.id) return;
    const made = await send('POST /api/trials', {
      body: { kind: 'verification', volumeId: chosen.volumeId, folder: chosen.folder, listId: kept.id },
    });
    if (!made) return;
    router.push(`/storage/trials/${made.id}`);
    onDone();
  };
  const name = file?.name ?? path;
  return (
    <section
      aria-label={`Hash list ${name}`}
      className="flex flex-col gap-2 border-l-4 border-signal pl-3 text-sm"
    >
      {report === null && error === null && (
        <p role="status" className="text-muted">
          Reading {name} …
        </p>
      )}
      <FormError message={error && `${name}: ${error.message}`} />
      {report && (
        <>
          <ReportWords report={report} />
          <Places places={report.places} value={place} onChange={setPlace} />
        </>
      )}
      <div className="flex gap-2">
        {report && report.places.length > 0 && (
          <Button look="main" disabled={busy} onClick={() => void verify()}>
            Verify
          </Button>
        )}
        <Button disabled={busy} onClick={onDone}>
          Discard
        </Button>
      </div>
    </section>
  );
}
