'use client';
import { useEffect } from 'react';
import type { FieldValues, UseFormReturn } from 'react-hook-form';
import { useUndo } from '../useUndo';

/**
 * What is typed into a form goes back and forth by Ctrl+Z and Ctrl+Y: what is typed into one field without a break is one
 * step, what is chosen, added or taken out a step of its own. Values must be what JSON can hold.
 * @param group heading of the keys
 */
export function useFormUndo<Values extends FieldValues>(form: UseFormReturn<Values>, group: string): void {
  const { value, set, steps } = useUndo(JSON.stringify(form.getValues()), group);
  useEffect(() => {
    const typing = form.watch((values, { name }) => {
      const isText = name !== undefined && typeof form.getValues(name) === 'string';
      set(() => JSON.stringify(values), `Change ${name ?? group}`, isText ? name : null);
    });
    return () => typing.unsubscribe();
  }, [form, set, group]);
  useEffect(() => {
    if (steps > 0)
      form.reset(JSON.parse(value) as Values, { keepDefaultValues: true, keepIsSubmitted: true });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a step back or forth, and nothing else
  }, [form, steps]);
}
