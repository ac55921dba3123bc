'use client';
import { useState } from 'react';
import type { Rational } from '@/core/time/rational';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { rateFrom, rateOptions } from '../timeline/words';
import { useSend } from '../useSend';
import { SelectField } from '../parts/Select';

/** Sets the rate of a clip whose files state none. */
export function ClipRate({ id, rate, reload }: { id: string; rate: Rational; reload: () => void }) {
  const { busy, error, send } = useSend();
  const now = `${rate.num}/${rate.den}`;
  const [chosen, setChosen] = useState(now);
  const options = rateOptions.some(([value]) => value === now)
    ? rateOptions
    : ([...rateOptions, [now, now]] as const);
  const save = async () => {
    if (await send('PATCH /api/clips/{id}', { ids: { id }, body: { rate: rateFrom(chosen) } })) reload();
  };
  return (
    <form
      aria-label="Rate"
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <SelectField
        label="Frames a second (its files state none)"
        value={chosen}
        onChange={setChosen}
        options={options}
        className="w-64"
      />
      <Button type="submit" disabled={busy || chosen === now}>
        Set rate
      </Button>
      <FormError message={error?.message} />
    </form>
  );
}
