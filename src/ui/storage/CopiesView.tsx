'use client';
import { size } from '@/core/format';
import { Copy } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { plainName } from '@/core/simulated';
import type { ListPart } from '@/server/trials/trialList';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';
import { Empty } from '../parts/Empty';
import { FormError, TextField } from '../parts/Field';
import { useLive } from '../shell/useLive';
import { TrialList } from '../trials/TrialList';
import { useSend } from '../useSend';
import { DayBudget } from './DayBudget';
import type { CopiesPage } from '../pages';
import { SelectField } from '../parts/Select';

/** Copying cards: start a copy, see all of them, and what a shooting day takes. */
export function CopiesView({ page: initial, list }: { page: CopiesPage; list: ListPart }) {
  const [page] = useLive(
    initial,
    'GET /api/storage/copies',
    (event) =>
      (event.type === 'trial-status' && event.kind === 'copy') || (event.type === 'volume' && event.finished),
  );
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <h1>Copy a card and verify it</h1>
      {page.volumes.length < 2 ? (
        <Empty
          title="A copy needs two volumes"
          action={
            <Link prefetch={false} className="underline" href="/storage">
              Add a volume
            </Link>
          }
        >
          One to read the card from and one to copy it to.
        </Empty>
      ) : (
        <CopyForm page={page} />
      )}
      <TrialList
        list={list}
        label="Copies"
        figures={['copied']}
        fileName="navvy-copies"
        empty={
          <Empty title="No copy yet">
            Each copy is listed here: what went where, whether it reads back the same, and where the limit
            was.
          </Empty>
        }
      />
      <DayBudget page={page} />
    </div>
  );
}

const none = '';

function CopyForm({ page: { volumes } }: { page: CopiesPage }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const cards = volumes.toSorted((a, b) => Number(b.kind === 'card') - Number(a.kind === 'card'));
  const targets = volumes.filter(({ facts, kind }) => facts.writable && kind !== 'card');
  const [form, setForm] = useState({
    card: cards[0]?.id ?? none,
    folder: '',
    first: targets[0]?.id ?? none,
    firstFolder: 'cards/A001',
    second: none,
    secondFolder: 'cards/A001',
  });
  const [verify, setVerify] = useState<'yes' | 'no'>('yes');
  const set = (key: keyof typeof form) => (text: string) =>
    setForm((current) => ({ ...current, [key]: text }));
  const optionOf = (volume: CopiesPage['volumes'][number]) =>
    [volume.id, plainName(volume.name, volume.standIn !== null)] as const;
  const start = async () => {
    const destinations = [
      { volumeId: form.first, folder: form.firstFolder },
      ...(form.second === none ? [] : [{ volumeId: form.second, folder: form.secondFolder }]),
    ];
    const made = await send('POST /api/trials', {
      body: {
        kind: 'copy',
        volumeId: form.card,
        folder: form.folder,
        destinations,
        verify: verify === 'yes',
      },
    });
    if (made) router.push(`/storage/trials/${made.id}`);
  };
  const chosen = targets.filter(({ id }) => id === form.first || id === form.second);
  return (
    <form
      aria-label="New copy"
      className="flex flex-col gap-3 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="grid gap-x-6 gap-y-3 lg:grid-cols-2">
        <div className="flex items-end gap-3">
          <SelectField
            label="From"
            value={form.card}
            onChange={set('card')}
            options={cards.map(optionOf)}
            invalid={error?.field === 'volumeId'}
            className="min-w-0 flex-1"
          />
          <TextField
            label="Folder on it"
            value={form.folder}
            onChange={set('folder')}
            invalid={error?.field === 'folder'}
            placeholder="all of it"
            figures
            className="w-32"
          />
        </div>
        <div className="flex items-end gap-3">
          <SelectField
            label="To"
            value={form.first}
            onChange={set('first')}
            options={targets.map(optionOf)}
            className="min-w-0 flex-1"
          />
          <TextField
            label="into"
            value={form.firstFolder}
            onChange={set('firstFolder')}
            invalid={error?.field?.startsWith('destinations[0]') ?? false}
            figures
            className="w-32"
          />
        </div>
        <div className="flex items-end gap-3">
          <SelectField
            label="and to"
            value={form.second}
            onChange={set('second')}
            options={[[none, 'no second copy'], ...targets.map(optionOf)]}
            className="min-w-0 flex-1"
          />
          {form.second !== none && (
            <TextField
              label="into"
              value={form.secondFolder}
              onChange={set('secondFolder')}
              invalid={error?.field?.startsWith('destinations[1]') ?? false}
              figures
              className="w-32"
            />
          )}
        </div>
      </div>
      <div className="flex flex-wrap items-end gap-4">
        <Choice
          label="Afterwards"
          value={verify}
          onChange={setVerify}
          options={[
            ['yes', 'Read back and compare'],
            ['no', 'Do not verify'],
          ]}
        />
        <p className="max-w-xl flex-1 text-sm text-muted">
          Writes{' '}
          {chosen
            .map(({ path, id }) => `into ${path}/${id === form.first ? form.firstFolder : form.secondFolder}`)
            .join(' and ')}
          ; overwrites nothing, leaves a reserve free (
          {chosen.map(({ facts }) => `${size(facts.freeBytes)} free`).join(', ')}), and writes a hash list
          (ASC MHL) beside the copy.
        </p>
        <Button look="main" type="submit" disabled={busy || form.card === none || form.first === none}>
          <Copy aria-hidden className="size-4" />
          Copy
        </Button>
      </div>
      <FormError message={error?.message} />
    </form>
  );
}
