'use client';
import { useWatch } from 'react-hook-form';
import { volumeInput } from '@/core/asked/volumes';
import type { VolumeKind } from '@/core/storage/volumeFacts';
import {
  Folded,
  Form,
  FormButtons,
  FormChoice,
  FormNumberField,
  FormProblems,
  FormTextField,
} from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { volumeKindOptions } from '../parts/Choice';
import { figure, figureOrNull } from '../parts/Field';
import { useCurrency } from '../shell/status';
import { emptyStandIn, sentStandIn, StandInFields } from './StandInFields';

const blank = {
  name: '',
  path: '',
  kind: 'internal' as VolumeKind,
  backing: 'real' as 'real' | 'simulated',
  link: '',
  notes: '',
  price: '',
  cacheGigabytes: '0',
  standIn: emptyStandIn,
};

/** Adds a folder of this host, read as it is or behind a model. What was typed stays when it is refused. */
export function AddVolume({ onDone }: { onDone: () => void }) {
  const adding = useRequestForm('POST /api/volumes', {
    schema: volumeInput,
    defaults: blank,
    draft: 'volume',
    bodyOf: ({ backing, price, cacheGigabytes, standIn, ...typed }) => ({
      ...typed,
      price: figureOrNull(price),
      cacheGigabytes: figure(cacheGigabytes),
      standIn: backing === 'simulated' ? sentStandIn(standIn) : null,
    }),
  });
  return (
    <Form
      of={adding}
      label="Add a volume"
      onSubmit={async () => {
        if (await adding.send()) onDone();
      }}
    >
      <div className="flex flex-wrap items-start gap-4">
        <FormTextField name="name" label="Name" placeholder="Shuttle SSD" className="w-64" />
        <FormTextField
          name="path"
          label="Folder on this host"
          placeholder="/media/shuttle/tidewrack"
          figures
          className="min-w-72 flex-1"
        />
        <FormChoice name="kind" label="Kind" options={volumeKindOptions} />
        <FormChoice
          name="backing"
          label="Reads come"
          options={[
            ['real', 'As the folder gives them'],
            ['simulated', 'Simulated, by a model'],
          ]}
        />
      </div>
      <Backing />
      <FormProblems />
      <FormButtons of={adding} verb="Add and scan">
        <Button onClick={onDone}>Close</Button>
        <span className="text-sm text-muted">
          Adding and scanning only reads. Write tests and copies say beforehand what they write.
        </span>
      </FormButtons>
    </Form>
  );
}

/** What is known of what is behind the folder, or the model that stands in for it. */
function Backing() {
  const currency = useCurrency();
  const backing = useWatch({ name: 'backing' }) as (typeof blank)['backing'];
  if (backing === 'simulated') return <StandInFields />;
  return (
    <Folded summary="Link, drives, price" names={['link', 'notes', 'cacheGigabytes', 'price']}>
      <FormTextField name="link" label="Link" placeholder="USB 10 Gb/s, short cable" className="w-64" />
      <FormTextField
        name="notes"
        label="Array and drives"
        placeholder="2 rotating disks, level 1"
        className="min-w-64 flex-1"
      />
      <FormNumberField name="cacheGigabytes" label="Server cache" unit="GB" placeholder="0" />
      <FormNumberField name="price" label="Price" unit={currency} />
    </Folded>
  );
}
