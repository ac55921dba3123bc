'use client';
import { Hourglass } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { trialHref } from '@/core/kinds/kinds';
import { soakInput } from '@/core/kinds/soak';
import { Form, FormFigure, FormProblems } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { figure } from '../parts/Field';

/** Repeats a playback or a task for minutes to hours, as one trial. @param work as it is asked for by itself */
export function SoakForm({ work }: { work: Readonly<Record<string, unknown>> }) {
  const router = useRouter();
  const soaking = useRequestForm('POST /api/trials', {
    schema: soakInput,
    defaults: { minutes: '30' },
    bodyOf: ({ minutes }) => ({ kind: 'soak', minutes: figure(minutes), work }),
  });
  return (
    <Form
      of={soaking}
      label="Soak"
      isPrinted={false}
      className="inline-flex items-center gap-1"
      onSubmit={async () => {
        const made = await soaking.send();
        if (made) router.push(trialHref({ kind: 'soak', id: made.id }));
      }}
    >
      <Button
        type="submit"
        disabled={soaking.busy}
        title="Again and again, as one trial: sustained against burst"
      >
        <Hourglass aria-hidden className="size-4" />
        Soak for
      </Button>
      <FormFigure name="minutes" label="Minutes of the soak" className="w-14" />
      <span className="text-xs text-muted">min</span>
      <FormProblems />
    </Form>
  );
}
