'use client';
import { clipChange } from '@/core/asked/library';
import type { Rational } from '@/core/time/rational';
import { Form, FormProblems, FormSelect } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { rateFrom, rateOptions } from '../timeline/words';

/** Sets the rate of a clip whose files state none. */
export function ClipRate({ id, rate, reload }: { id: string; rate: Rational; reload: () => void }) {
  const now = `${rate.num}/${rate.den}`;
  const setting = useRequestForm('PATCH /api/clips/{id}', {
    schema: clipChange,
    defaults: { rate: now },
    bodyOf: (typed) => ({ rate: rateFrom(typed.rate) }),
  });
  const { rate: chosen } = useTyped(setting);
  const options = rateOptions.some(([value]) => value === now)
    ? rateOptions
    : ([...rateOptions, [now, now]] as const);
  return (
    <Form
      of={setting}
      label="Rate"
      className="flex flex-wrap items-end gap-2"
      onSubmit={async () => {
        if (await setting.send({ ids: { id } })) reload();
      }}
    >
      <FormSelect
        name="rate"
        label="Frames a second (its files state none)"
        options={options}
        className="w-64"
      />
      <Button type="submit" disabled={setting.busy || chosen === now}>
        Set rate
      </Button>
      <FormProblems />
    </Form>
  );
}
