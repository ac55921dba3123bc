'use client';
import { useState } from 'react';
import type { VolumeKind } from '@/core/storage/volumeFacts';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';
import { figure, figureOrNull, FormError, NumberField, TextField } from '../parts/Field';
import { useSend } from '../useSend';
import { emptyStandIn, sentStandIn, StandInFields } from './StandInFields';
import { useCurrency } from '../shell/status';

const blank = { name: '', path: '', link: '', notes: '', price: '', cache: '0' };

/** Adds a folder of this host, read as it is or behind a model. What was typed stays when it is refused. */
export function AddVolume({ onDone }: { onDone: () => void }) {
  const currency = useCurrency();
  const [form, setForm] = useState(blank);
  const [kind, setKind] = useState<VolumeKind>('internal');
  const [backing, setBacking] = useState<'real' | 'simulated'>('real');
  const [standIn, setStandIn] = useState(emptyStandIn);
  const { busy, error, send } = useSend();
  const set = (key: keyof typeof blank) => (text: string) =>
    setForm((current) => ({ ...current, [key]: text }));
  const add = async () => {
    const { name, path, link, notes, price, cache } = form;
    const body = {
      name,
      path,
      kind,
      link,
      notes,
      price: figureOrNull(price),
      cacheGigabytes: figure(cache),
      standIn: backing === 'simulated' ? sentStandIn(standIn) : null,
    };
    if (await send('POST /api/volumes', { body })) onDone();
  };
  return (
    <form
      aria-label="Add a volume"
      className="flex flex-col gap-3 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <TextField
          label="Name"
          value={form.name}
          onChange={set('name')}
          invalid={error?.field === 'name'}
          placeholder="Shuttle SSD"
          className="w-64"
        />
        <TextField
          label="Folder on this host"
          value={form.path}
          onChange={set('path')}
          invalid={error?.field === 'path'}
          placeholder="/media/shuttle/tidewrack"
          figures
          className="min-w-72 flex-1"
        />
        <Choice
          label="Kind"
          value={kind}
          onChange={setKind}
          options={[
            ['internal', 'Internal'],
            ['external', 'External'],
            ['network', 'Network'],
            ['card', 'Card'],
          ]}
        />
        <Choice
          label="Reads come"
          value={backing}
          onChange={setBacking}
          options={[
            ['real', 'As the folder gives them'],
            ['simulated', 'Simulated, by a model'],
          ]}
        />
      </div>
      {backing === 'simulated' ? (
        <StandInFields value={standIn} onChange={setStandIn} />
      ) : (
        <details>
          <summary className="w-fit text-sm text-muted hover:text-ink">Link, drives, price</summary>
          <div className="mt-2 flex flex-wrap items-end gap-4">
            <TextField
              label="Link"
              value={form.link}
              onChange={set('link')}
              placeholder="USB 10 Gb/s, short cable"
              className="w-64"
            />
            <TextField
              label="Array and drives"
              value={form.notes}
              onChange={set('notes')}
              placeholder="2 rotating disks, level 1"
              className="min-w-64 flex-1"
            />
            <NumberField
              label="Server cache"
              value={form.cache}
              onChange={set('cache')}
              unit="GB"
              placeholder="0"
            />
            <NumberField
              label="Price"
              unit={currency}
              value={form.price}
              onChange={set('price')}
              invalid={error?.field === 'price'}
            />
          </div>
        </details>
      )}
      <FormError message={error?.message} />
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={busy}>
          Add and scan
        </Button>
        <Button onClick={onDone}>Close</Button>
        <span className="self-center text-sm text-muted">
          Adding and scanning only reads. Write tests and copies say beforehand what they write.
        </span>
      </div>
    </form>
  );
}
