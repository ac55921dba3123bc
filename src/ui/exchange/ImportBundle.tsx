'use client';
import { clsx } from 'clsx';
import { useEffect, useEffectEvent, useState } from 'react';
import { count, dateTime } from '@/core/format';
import type { BundleReport } from '@/server/exchange/importBundle';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { useSend } from '../useSend';
import { useFileText } from '../useFileText';

/** Lists of a bundle by what they are called, in the order of their weight. */
const lists = [
  ['trials', 'Trials'],
  ['timelines', 'Timelines'],
  ['plans', 'Series and matrices'],
  ['looks', 'Looks'],
] as const;

/** A bundle is read, what of it comes in is told, and then it is imported. @param onStored after it came in @param onDiscard when it is not wanted */
export function ImportBundle({
  file,
  onStored,
  onDiscard,
}: {
  readonly file: File;
  readonly onStored: () => Promise<void> | void;
  readonly onDiscard: () => void;
}) {
  const { busy, error, send } = useSend();
  const text = useFileText(file);
  const [report, setReport] = useState<BundleReport | null>(null);
  const ask = async (store: boolean) => {
    if (text === null) return;
    const told = await send('POST /api/bundles', { body: text, query: store ? {} : { store: 'no' } });
    if (!told) return;
    setReport(told);
    if (store) await onStored();
  };
  const read = useEffectEvent(() => void ask(false));
  useEffect(() => {
    if (text !== null) read();
  }, [text]);
  return (
    <section
      aria-label={`Bundle ${file.name}`}
      className={clsx('flex flex-col gap-2 text-sm', report && 'border-l-4 border-signal pl-3')}
    >
      {report === null && error === null && (
        <p role="status" className="text-muted">
          Reading {file.name} …
        </p>
      )}
      <FormError message={error && `${file.name}: ${error.message}`} />
      {report && (
        <>
          <p role="status">
            <span className="font-semibold">{report.rigName}</span> {report.simulated && <Simulated />} in{' '}
            {file.name}, exported {dateTime(report.exportedAt)} by Navvy {report.softwareVersion}.{' '}
            {report.stored ? summary(report) : 'Nothing is stored yet.'}
          </p>
          <Listed report={report} />
          <ul className="list-disc pl-4 text-xs">
            {report.proved && <li>Its hashes are right: nothing was changed since it was exported.</li>}
            {report.notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
            <li>Clips are not in a bundle. Footage of the same content here is compared with its results.</li>
          </ul>
        </>
      )}
      <div className="flex gap-2">
        {report && !report.stored && (
          <Button look="main" disabled={busy} onClick={() => void ask(true)}>
            Import
          </Button>
        )}
        <Button disabled={busy} onClick={onDiscard}>
          {report?.stored ? 'Close' : 'Discard'}
        </Button>
      </div>
    </section>
  );
}

/** What came in, in a sentence. */
function summary({ trials: { added, known } }: BundleReport): string {
  return `${count(added)} ${added === 1 ? 'result' : 'results'} added${known > 0 ? `, ${count(known)} were here already` : ''}.`;
}

/** What comes in of each list, and what is here already. */
function Listed({ report }: { readonly report: BundleReport }) {
  const some = lists.filter(([name]) => report[name].added + report[name].known > 0);
  if (some.length === 0) return <p className="text-muted">It holds no results.</p>;
  return (
    <table aria-label="In the bundle" className="w-fit text-xs">
      <thead className="text-left text-muted">
        <tr>
          <th className="pr-6 font-normal">In the bundle</th>
          <th className="pr-6 text-right font-normal">{report.stored ? 'Added' : 'New here'}</th>
          <th className="text-right font-normal">Here already, left as they are</th>
        </tr>
      </thead>
      <tbody>
        {some.map(([name, words]) => (
          <tr key={name} className="border-t">
            <td className="pr-6">{words}</td>
            <td className="figure pr-6 text-right">{count(report[name].added)}</td>
            <td className="figure text-right">{count(report[name].known)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
