'use client';
import { count, dateTime, milliseconds, money, quantity, size } from '@/core/format';
import { Pencil } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { volumeChange } from '@/core/asked/volumes';
import { kinds } from '@/core/kinds/kinds';
import { modelLabel } from '@/core/storage/standInChoice';
import type { ListPart } from '@/server/trials/trialList';
import { Form, FormButtons, FormNumberField, FormProblems, FormTextField } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { Facts } from '../parts/Figure';
import { figure, figureOrNull } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { useLive } from '../shell/useLive';
import { perhapsWarmWords } from '../tasks/words';
import { TrialList } from '../trials/TrialList';
import { HistoryChart } from './HistoryChart';
import { usableBytes } from './measured';
import { MeasureForm, OpenClipsForm, StreamsForm } from './MeasureForm';
import { emptyStandIn, sentStandIn, StandInFields, standInForm } from './StandInFields';
import type { VolumePage } from '../pages';
import { useCurrency } from '../shell/status';

/** One volume: what it is, how to measure it, and what it gave so far. */
export function VolumeView({ initial, list }: { initial: VolumePage; list: ListPart }) {
  const { id } = initial.volume;
  const [{ volume, trials, clips, opening }, reload] = useLive(
    initial,
    'GET /api/volumes/{id}',
    (event) =>
      (event.type === 'volume' && event.volumeId === id && event.finished) ||
      (event.type === 'trial-status' && event.volumeIds.includes(id)),
    { ids: { id } },
  );
  const [editing, setEditing] = useState(false);
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <div className="flex items-center gap-3">
        <h1 className="min-w-0 truncate" title={volume.name}>
          {volume.name}
        </h1>
        <span className="text-muted">{volume.kind}</span>
        {volume.standIn && <Simulated model={volume.standIn} />}
        <Button className="ml-auto" onClick={() => setEditing(!editing)} aria-expanded={editing}>
          <Pencil aria-hidden className="size-4" />
          Edit notes
        </Button>
      </div>
      {editing ? (
        <Notes
          volume={volume}
          onDone={() => {
            setEditing(false);
            void reload();
          }}
        />
      ) : (
        <VolumeFactsList volume={volume} opening={opening} />
      )}
      <section aria-label="Measuring" className="flex flex-col gap-3">
        <h2>Measure it</h2>
        <MeasureForm volume={volume} clips={clips} />
        <StreamsForm clips={clips} />
        <OpenClipsForm volume={volume} clips={clips} />
      </section>
      <section aria-label="History of this volume" className="flex flex-col gap-3">
        <h2>What it gave so far</h2>
        <HistoryChart trials={trials} />
        <TrialList
          list={list}
          label="Storage trials"
          figures={['read', 'write', 'streams', 'copied']}
          fileName="navvy-storage-trials"
          empty={
            <Empty title="Not measured yet">
              Each trial of this volume is listed here, so that a drive that slows down is noticed. Choose a
              test above and press Measure.
            </Empty>
          }
        />
      </section>
    </div>
  );
}

function VolumeFactsList({ volume, opening }: Pick<VolumePage, 'volume' | 'opening'>) {
  const { facts, standIn, link, notes, price, cacheBytes } = volume;
  const currency = useCurrency();
  return (
    <div className="grid gap-x-10 gap-y-1 border bg-surface p-4 lg:grid-cols-2">
      <Facts
        rows={[
          [
            'Folder',
            <span key="path" className="figure break-all">
              {volume.path}
            </span>,
          ],
          ['File system', `${facts.fileSystem} at ${facts.mountPoint}${facts.writable ? '' : ', read-only'}`],
          [
            'Device',
            `${facts.network ? `${facts.network.share} of server ${facts.network.server}` : facts.device}${facts.rotational === null ? '' : facts.rotational ? ', rotating' : ', not rotating'}`,
          ],
          [
            'Mount options',
            facts.mountOptions === undefined
              ? 'not read yet; scan the volume'
              : facts.mountOptions.join(', ') || 'not reported by the system',
          ],
          ['Space', `${size(facts.freeBytes)} free of ${size(facts.sizeBytes)}`],
        ]}
      />
      <Facts
        rows={[
          ...(standIn
            ? [
                ['Model, simulated', modelLabel(standIn)] as const,
                ['Usable by its model', size(usableBytes(standIn))] as const,
                [
                  'Round trip',
                  `${quantity(standIn.link.roundTripUs / 1000, 'ms')}, ${standIn.link.depth} requests under way`,
                ] as const,
              ]
            : [['Link', link || 'not noted'] as const]),
          ['Server cache', cacheBytes > 0 ? size(cacheBytes) : 'none known'],
          ['Array and drives', notes || 'not noted'],
          ['Price', price === null ? 'not noted' : money(price, currency)],
          ['Opening a clip', opening ? <OpeningFigure key="opening" opening={opening} /> : 'not measured'],
          ['Scanned', volume.scannedAt ? dateTime(volume.scannedAt) : 'not yet'],
        ]}
      />
    </div>
  );
}

/** How long its clips took to open, the last time. */
function OpeningFigure({ opening }: { opening: NonNullable<VolumePage['opening']> }) {
  const { clips, median, worst, trialId, at, perhapsWarm } = opening;
  return (
    <>
      {milliseconds(median.pictureMs)} to the first picture (first byte {milliseconds(median.firstByteMs)},
      index {milliseconds(median.indexMs)}), {milliseconds(worst.pictureMs)} at worst;{' '}
      <Link prefetch={false} className="underline" href={`${kinds.opening.page}/${trialId}`}>
        {clips === 1 ? '1 clip' : `median of ${count(clips)} clips`}, {dateTime(at)}
      </Link>
      {perhapsWarm && <span className="block text-signal-text">{perhapsWarmWords}</span>}
    </>
  );
}

/** What a person knows of the volume and the system does not. */
function Notes({ volume, onDone }: Pick<VolumePage, 'volume'> & { onDone: () => void }) {
  const currency = useCurrency();
  const isSimulated = volume.standIn !== null;
  const notes = useRequestForm('PATCH /api/volumes/{id}', {
    schema: volumeChange,
    defaults: {
      name: volume.name,
      link: volume.link,
      notes: volume.notes,
      price: volume.price === null ? '' : String(volume.price),
      cacheGigabytes: String(volume.cacheBytes / 1e9),
      standIn: volume.standIn ? standInForm(volume.standIn) : emptyStandIn,
    },
    draft: `volume-${volume.id}`,
    bodyOf: ({ price, cacheGigabytes, standIn, ...typed }) => ({
      ...typed,
      price: figureOrNull(price),
      cacheGigabytes: figure(cacheGigabytes),
      standIn: isSimulated ? sentStandIn(standIn) : null,
    }),
  });
  return (
    <Form
      of={notes}
      label="Notes of this volume"
      onSubmit={async () => {
        if (await notes.send({ ids: { id: volume.id } })) onDone();
      }}
    >
      <div className="flex flex-wrap items-start gap-4">
        <FormTextField name="name" label="Name" className="w-64" />
        {!isSimulated && <FormTextField name="link" label="Link" className="w-64" />}
        <FormTextField name="notes" label="Array and drives" className="min-w-64 flex-1" />
        {!isSimulated && <FormNumberField name="cacheGigabytes" label="Server cache" unit="GB" />}
        <FormNumberField name="price" label="Price" unit={currency} />
      </div>
      {isSimulated && <StandInFields />}
      <FormProblems />
      <FormButtons of={notes} verb="Save">
        <Button
          onClick={() => {
            notes.discard();
            onDone();
          }}
        >
          Discard changes
        </Button>
        {isSimulated && (
          <span className="text-sm text-muted">
            Trials that were made keep the model they were made under.
          </span>
        )}
      </FormButtons>
    </Form>
  );
}
