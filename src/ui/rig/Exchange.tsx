'use client';
import { dateTime } from '@/core/format';
import { Download, Trash2, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { addressOf, callApi } from '../api';
import { ImportBundle } from '../exchange/ImportBundle';
import { Button, LinkButton } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { Simulated } from '../parts/Simulated';
import type { RigRow } from '../pages';

/** Results out of this rig as a bundle, and those of other rigs in. */
export function Exchange({ others, reload }: { others: readonly RigRow[]; reload: () => Promise<void> }) {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  return (
    <section aria-label="Exchange" className="flex flex-col gap-3">
      <h2>Results of this rig and of others</h2>
      <div className="flex flex-wrap items-center gap-2">
        <LinkButton href={addressOf('GET /api/bundles')}>
          <Download aria-hidden className="size-4" />
          Export this rig’s results
        </LinkButton>
        <Button onClick={() => input.current?.click()}>
          <Upload aria-hidden className="size-4" />
          Import a bundle
        </Button>
        <input
          ref={input}
          type="file"
          accept="application/json,.json"
          aria-label="Bundle to import"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => {
            setFile(event.target.files?.[0] ?? null);
            event.target.value = '';
          }}
        />
      </div>
      {file && (
        <ImportBundle
          key={`${file.name} ${file.lastModified} ${file.size}`}
          file={file}
          onStored={reload}
          onDiscard={() => setFile(null)}
        />
      )}
      {others.length === 0 ? (
        <p className="max-w-2xl text-sm text-muted">
          No other rig yet. A bundle that another Navvy exported stands beside this rig in comparisons and
          decision maps. Importing the same bundle twice changes nothing.
        </p>
      ) : (
        <ul className="border bg-surface">
          {others.map((rig) => (
            <OtherRig key={rig.id} rig={rig} reload={reload} />
          ))}
        </ul>
      )}
    </section>
  );
}

function OtherRig({
  rig: { id, name, imported, identity },
  reload,
}: {
  rig: RigRow;
  reload: () => Promise<void>;
}) {
  return (
    <li className="flex flex-wrap items-center gap-3 border-b px-3 py-1.5 text-sm last:border-b-0">
      <span className="font-semibold">{name}</span>
      {imported?.simulated && <Simulated />}
      <span className="text-muted">
        {identity.processor}, {identity.logicalCores} cores;{' '}
        {imported?.simulated
          ? 'computed by a model'
          : `exported ${imported ? dateTime(imported.exportedAt) : ''} by Navvy ${imported?.softwareVersion ?? ''}`}
      </span>
      <a
        href={addressOf('GET /api/bundles', { query: { rig: id } })}
        className="ml-auto text-muted underline decoration-edge underline-offset-4"
      >
        Export
      </a>
      <ConfirmButton
        label={`Remove ${name}`}
        title={`Remove ${name}?`}
        consequence={`The imported results and volumes of ${name} are removed. The bundle file stays where it is; import it again to restore them.`}
        verb="Remove"
        act={async () => {
          await callApi('DELETE /api/rigs/{id}', { ids: { id } });
          await reload();
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
    </li>
  );
}
