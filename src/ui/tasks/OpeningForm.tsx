'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { kinds } from '@/core/kinds/kinds';
import { openingInput, type OpeningEach } from '@/core/kinds/opening';
import { Folded, Form, FormChoice, FormNumberField, FormProblems } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { cacheOptions, readsOptions } from '../parts/Choice';
import { figure, figureOrNull } from '../parts/Field';
import { SubjectChoice, type Subject } from '../parts/SubjectChoice';

/** How it is opened; figures are text. */
interface Typed extends Record<'clips' | 'lanes' | 'threads', string> {
  readonly each: OpeningEach;
  readonly read: 'originals' | 'proxies';
  readonly warm: 'cold' | 'warm';
}

/** What is opened, as it is asked for. */
const askedOf = (what: Subject | null, clips: string) => {
  const { kind, id = '' } = what ?? {};
  if (kind === 'volume') return { clipsOfVolume: id, clips: figure(clips) };
  return kind === 'timeline' ? { timelineId: id } : { clipId: id };
};

/** Choose what is to be opened, and how. */
export function OpeningForm({ others, first }: { others: readonly Subject[]; first: Subject | null }) {
  const router = useRouter();
  const [what, setWhat] = useState(first);
  const opening = useRequestForm<'POST /api/trials', Typed>('POST /api/trials', {
    schema: openingInput,
    defaults: {
      clips: '12',
      lanes: '2',
      each: 'whole',
      threads: '',
      read: 'originals',
      warm: 'cold',
    },
    bodyOf: ({ clips, lanes, each, threads, read, warm }) => ({
      kind: 'opening',
      ...askedOf(what, clips),
      lanes: figure(lanes),
      each,
      threads: figureOrNull(threads) ?? 0,
      read,
      warm: warm === 'warm',
    }),
  });
  const { form } = opening;
  const each = useTyped(opening).each;
  return (
    <Form
      of={opening}
      label="Opening"
      className="flex flex-col gap-3"
      onSubmit={async () => {
        const made = await opening.send();
        if (made) router.push(`${kinds.opening.page}/${made.id}`);
      }}
    >
      <div className="flex flex-wrap items-start gap-3">
        <SubjectChoice
          label="Timeline, volume or clip"
          value={what}
          onChange={setWhat}
          others={others}
          invalid={['clipId', 'timelineId', 'clipsOfVolume'].some(opening.isWrong)}
        />
        {what?.kind === 'volume' && <FormNumberField name="clips" label="Its first clips" />}
        <FormNumberField name="lanes" label="Clips at a time" />
        <FormChoice<OpeningEach>
          name="each"
          label="Of each clip"
          // What one clip takes is told by one at a time.
          onChosen={(next) => form.setValue('lanes', next === 'picture' ? '1' : '2')}
          options={[
            ['whole', 'All'],
            ['picture', 'First picture'],
          ]}
        />
        <Button look="main" type="submit" disabled={opening.busy || what === null} className="mt-5">
          Open and measure
        </Button>
      </div>
      <p className="text-sm text-muted">
        {each === 'picture'
          ? 'Of every clip, one after the other: until its first byte, until its index is read, and until its first picture is decoded. The figures are shown with the volume and with each clip.'
          : 'The headers of what its first picture shows and that picture, then header, thumbnails and sound peaks of every clip, as the media list draws them. Nothing that was drawn before is used, and nothing of it is kept.'}
      </p>
      <Folded summary="Further conditions" names={['read', 'warm', 'threads']}>
        <FormChoice name="read" label="Reads" options={readsOptions} />
        <FormChoice name="warm" label="System cache" options={cacheOptions} />
        <FormNumberField name="threads" label="Threads of a decoder" placeholder="one per core" />
      </Folded>
      <FormProblems />
    </Form>
  );
}
