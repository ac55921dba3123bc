'use client';
import { Layers } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { seriesInput } from '@/core/asked/plans';
import { fewestForRatio } from '@/core/stats/bootstrap';
import { Form, FormFigure, FormProblems } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { figure } from '../parts/Field';
import { usualMostMadeUp } from './words';

/** Repeats a trial of any kind under the same conditions, as a series. */
export function RepeatSeries({ trialId }: { trialId: string }) {
  const router = useRouter();
  const repeating = useRequestForm('POST /api/plans/series', {
    schema: seriesInput,
    defaults: { repeats: String(fewestForRatio), mostMadeUp: String(usualMostMadeUp) },
    bodyOf: ({ repeats, mostMadeUp }) => ({
      trialId,
      repeats: figure(repeats),
      mostMadeUp: figure(mostMadeUp),
    }),
  });
  return (
    <Form
      of={repeating}
      label="Series"
      isPrinted={false}
      className="inline-flex items-center gap-1"
      onSubmit={async () => {
        const made = await repeating.send();
        if (made) router.push(`/trials/plans/${made.id}`);
      }}
    >
      <Button type="submit" disabled={repeating.busy}>
        <Layers aria-hidden className="size-4" />
        Series of
      </Button>
      <FormFigure name="repeats" label="Repeats of the series" className="w-12" />
      <label
        className="flex items-center gap-1 whitespace-nowrap text-xs text-muted"
        title="A run that others disturbed, or in which the machine itself was unsteady, is repeated by itself, up to so many times."
      >
        and up to
        <FormFigure name="mostMadeUp" label="More for runs in doubt" className="w-10" />
        more if in doubt
      </label>
      <FormProblems />
    </Form>
  );
}
