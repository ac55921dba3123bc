'use client';
import { size } from '@/core/format';
import { Copy } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { copyInput } from '@/core/kinds/copy';
import { plainName } from '@/core/simulated';
import type { ListPart } from '@/server/trials/trialList';
import { Form, FormChoice, FormProblems, FormSelect, FormTextField } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { useLive } from '../shell/useLive';
import { TrialList } from '../trials/TrialList';
import { DayBudget } from './DayBudget';
import { VerifyCopy } from './VerifyCopy';
import type { CopiesPage } from '../pages';

/** Copying cards: start a copy, see all of them, and what a shooting day takes. */
export function CopiesView({ page: initial, list }: { page: CopiesPage; list: ListPart }) {
  const [page] = useLive(
    initial,
    'GET /api/storage/copies',
    (event) =>
      (event.type === 'trial-status' && (event.kind === 'copy' || event.kind === 'verification')) ||
      (event.type === 'volume' && event.finished),
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
      {page.volumes.length > 0 && <VerifyCopy volumes={page.volumes} />}
      <TrialList
        list={list}
        label="Copies and verifications"
        figures={['copied', 'verified']}
        fileName="navvy-copies"
        empty={
          <Empty title="No copy or verification yet">
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
const optionOf = ({ id, name, standIn }: CopiesPage['volumes'][number]) =>
  [id, plainName(name, standIn !== null)] as const;

/** Where copies go: one, and perhaps a second. @param second volume of the second, if it is chosen */
function DestinationFields({
  targets,
  second,
}: {
  targets: readonly (readonly [string, string])[];
  second: string;
}) {
  return (['To', 'and to'] as const).map((label, index) => (
    <div key={label} className="flex items-start gap-3">
      <FormSelect
        name={`destinations.${index}.volumeId`}
        label={label}
        options={[...(index === 0 ? [] : [[none, 'no second copy'] as const]), ...targets]}
        className="min-w-0 flex-1"
      />
      {(index === 0 || second !== none) && (
        <FormTextField name={`destinations.${index}.folder`} label="into" figures className="w-32" />
      )}
    </div>
  ));
}

function CopyForm({ page: { volumes } }: { page: CopiesPage }) {
  const router = useRouter();
  const cards = volumes.toSorted((a, b) => Number(b.kind === 'card') - Number(a.kind === 'card'));
  const targets = volumes.filter(({ facts, kind }) => facts.writable && kind !== 'card');
  const copying = useRequestForm('POST /api/trials', {
    schema: copyInput,
    defaults: {
      volumeId: cards[0]?.id ?? none,
      folder: '',
      destinations: [
        { volumeId: targets[0]?.id ?? none, folder: 'cards/A001' },
        { volumeId: none, folder: 'cards/A001' },
      ],
      verify: 'yes',
    },
    bodyOf: ({ volumeId, folder, destinations, verify }) => ({
      kind: 'copy',
      volumeId,
      folder,
      destinations: destinations.filter((destination, index) => index === 0 || destination.volumeId !== none),
      verify: verify === 'yes',
    }),
  });
  const { volumeId, destinations } = useTyped(copying);
  const chosen = destinations.flatMap(({ volumeId: id, folder }) => {
    const volume = targets.find((target) => target.id === id);
    return volume ? [{ ...volume, folder }] : [];
  });
  return (
    <Form
      of={copying}
      label="New copy"
      onSubmit={async () => {
        const made = await copying.send();
        if (made) router.push(`/storage/trials/${made.id}`);
      }}
    >
      <div className="grid gap-x-6 gap-y-3 lg:grid-cols-2">
        <div className="flex items-start gap-3">
          <FormSelect name="volumeId" label="From" options={cards.map(optionOf)} className="min-w-0 flex-1" />
          <FormTextField
            name="folder"
            label="Folder on it"
            placeholder="all of it"
            figures
            className="w-32"
          />
        </div>
        <DestinationFields targets={targets.map(optionOf)} second={destinations[1]?.volumeId ?? none} />
      </div>
      <div className="flex flex-wrap items-end gap-4">
        <FormChoice
          name="verify"
          label="Afterwards"
          options={[
            ['yes', 'Read back and compare'],
            ['no', 'Do not verify'],
          ]}
        />
        <p className="max-w-xl flex-1 text-sm text-muted">
          Writes {chosen.map(({ path, folder }) => `into ${path}/${folder}`).join(' and ')}; overwrites
          nothing, leaves a reserve free (
          {chosen.map(({ facts }) => `${size(facts.freeBytes)} free`).join(', ')}), and writes a hash list
          (ASC MHL) beside the copy.
        </p>
        <Button
          look="main"
          type="submit"
          disabled={copying.busy || volumeId === none || destinations[0]?.volumeId === none}
        >
          <Copy aria-hidden className="size-4" />
          Copy
        </Button>
      </div>
      <FormProblems />
    </Form>
  );
}
