'use client';
import { useState } from 'react';
import { dateTime, size } from '@/core/format';
import { plainName } from '@/core/simulated';
import { VerifyList, type ListSource } from '../exchange/VerifyList';
import type { CopiesPage } from '../pages';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { SelectField } from '../parts/Select';
import { useSend } from '../useSend';

type Found = { readonly path: string; readonly bytes: number; readonly modifiedMs: number };

/** Is it still what the card held: a copy held against the hash list beside it, or against one from elsewhere. */
export function VerifyCopy({ volumes }: { readonly volumes: CopiesPage['volumes'] }) {
  const { busy, error, send } = useSend();
  const [volumeId, setVolumeId] = useState(volumes[0]?.id ?? '');
  const [found, setFound] = useState<readonly Found[] | null>(null);
  const [source, setSource] = useState<ListSource | null>(null);
  const choose = (id: string) => {
    setVolumeId(id);
    setFound(null);
    setSource(null);
  };
  const find = async () => {
    const lists = await send('GET /api/volumes/{id}/hash-lists', { ids: { id: volumeId } });
    if (lists) setFound(lists);
  };
  return (
    <section aria-label="Verify a copy" className="flex flex-col gap-3">
      <h2>Is a copy still what the card held?</h2>
      <p className="max-w-3xl text-sm text-muted">
        Reads every file that a hash list names, cold, and tells what changed, what is missing and what is not
        in the list. Nothing is written.
      </p>
      <div className="flex flex-wrap items-end gap-3">
        <SelectField
          label="Volume with the list"
          value={volumeId}
          onChange={choose}
          options={volumes.map(({ id, name, standIn }) => [id, plainName(name, standIn !== null)] as const)}
          className="w-72"
        />
        <Button disabled={busy || volumeId === ''} onClick={() => void find()}>
          Find its hash lists
        </Button>
        {found !== null && found.length > 0 && (
          <SelectField
            label="Hash list"
            value={source && 'path' in source ? source.path : ''}
            onChange={(path) => setSource(path === '' ? null : { volumeId, path })}
            options={[
              ['', `${found.length} found`],
              ...found.map(
                ({ path, bytes, modifiedMs }) =>
                  [path, `${path}, ${size(bytes)}, ${dateTime(new Date(modifiedMs))}`] as const,
              ),
            ]}
            className="min-w-72 flex-1"
          />
        )}
        <label className="block text-sm">
          <span className="mb-1 block text-xs text-muted">Or a list that lies elsewhere (.mhl, .md5, …)</span>
          <input
            type="file"
            aria-label="Hash list elsewhere"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) setSource({ file });
              event.target.value = '';
            }}
            className="file:mr-3 file:h-9 file:border file:border-edge file:bg-raised file:px-3 file:text-ink"
          />
        </label>
      </div>
      <FormError message={error?.message} />
      {found?.length === 0 && (
        <p role="status" className="text-sm text-muted">
          No hash list lies on this volume. Choose one that lies elsewhere, or copy a card: a list is written
          beside the copy.
        </p>
      )}
      {source && (
        <VerifyList
          key={'file' in source ? `${source.file.name} ${source.file.lastModified}` : source.path}
          source={source}
          onDone={() => setSource(null)}
        />
      )}
    </section>
  );
}
