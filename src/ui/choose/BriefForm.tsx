'use client';
import { Plus, Trash2 } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useWatch } from 'react-hook-form';
import { briefInput } from '@/core/asked/briefs';
import type { Brief } from '@/core/choose/brief';
import { megabitsPerSecond } from '@/core/format';
import { withOtherNames } from '@/core/media/fileName';
import { formatLabel } from '@/core/media/format';
import type { Grade } from '@/core/playback/grade';
import type { PlaybackScale } from '@/core/playback/slots';
import { greatest } from '@/core/stats/extremes';
import type { BriefForm as Offer } from '@/server/decide/briefs';
import { callApi } from '../api';
import {
  Form,
  FormButtons,
  FormCheck,
  FormChoice,
  FormFigure,
  FormNumberField,
  FormProblems,
  FormSelect,
  FormTextField,
} from '../form/Form';
import { useFormUndo } from '../form/useFormUndo';
import { useAskedForm, useTyped, type DrawnForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { requiredGradeOptions, scaleOptions } from '../parts/Choice';
import { figure, figureAs, figureOrNull } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { useCurrency } from '../shell/status';

/** A brief as it is typed: figures are text. Fields have the names that they have in what is sent. */
interface Typed extends Record<
  'name' | 'question' | 'days' | 'streams' | 'looks' | 'margin' | 'budget' | 'cardMegabytesPerSecond',
  string
> {
  readonly scale: PlaybackScale;
  readonly speed: '1' | '2' | '4' | '8';
  readonly grade: Grade;
  readonly cameras: readonly {
    readonly key: number;
    readonly clipId: string;
    readonly name: string;
    readonly hoursPerDay: string;
  }[];
  /** All volumes that are offered, in their order; a price is kept while its volume is not among the places. */
  readonly places: readonly {
    readonly rigId: string;
    readonly volumeId: string;
    readonly isChosen: boolean;
    readonly price: string;
  }[];
}

/** A camera's name as its clip suggests it: the folder it lies in. */
function suggestedName(path: string): string {
  const folder = path.split('/').at(-2) ?? path.split('/').at(-1) ?? 'Camera';
  return folder.replace(/[-_]+/g, ' ').replace(/^./, (letter) => letter.toUpperCase());
}

type Place = Pick<Typed['places'][number], 'rigId' | 'volumeId'>;
const isSamePlace = (a: Place, b: Place) => a.rigId === b.rigId && a.volumeId === b.volumeId;
const priceText = (price: number | null) => (price === null ? '' : String(price));

function typedOf(offer: Offer, name: string, brief: Brief | null): Typed {
  const [clip] = offer.clips;
  return {
    name,
    question: brief?.question ?? '',
    days: String(brief?.days ?? 10),
    streams: String(brief?.streams ?? 1),
    looks: String(brief?.looks ?? 0),
    scale: brief?.scale ?? 'full',
    speed: String(brief?.speed ?? 1) as Typed['speed'],
    grade: brief?.grade ?? 'workable',
    margin: String(Math.round((brief?.margin ?? 0.25) * 100)),
    budget: priceText(brief?.budget ?? null),
    cardMegabytesPerSecond: brief?.cardBytesPerSecond == null ? '' : String(brief.cardBytesPerSecond / 1e6),
    cameras: brief
      ? brief.cameras.map((camera, key) => ({
          key,
          name: camera.name,
          hoursPerDay: String(camera.hoursPerDay),
          clipId:
            offer.clips.find(({ contentHash }) => contentHash === camera.contentHash)?.id ??
            camera.contentHash,
        }))
      : clip
        ? [{ key: 0, clipId: clip.id, name: suggestedName(clip.path), hoursPerDay: '2' }]
        : [],
    places: offer.volumes.map(({ rigId, volumeId, kind, price }) => {
      const place = brief?.places.find((one) => isSamePlace(one, { rigId, volumeId }));
      return {
        rigId,
        volumeId,
        isChosen: brief ? place !== undefined : rigId === offer.rigId && kind !== 'card',
        price: priceText(place ? place.price : price),
      };
    }),
  };
}

const requestOf = (typed: Typed) => ({
  name: typed.name,
  question: typed.question,
  days: figure(typed.days),
  streams: figure(typed.streams),
  looks: figure(typed.looks),
  scale: typed.scale,
  speed: Number(typed.speed),
  grade: typed.grade,
  margin: figureAs(typed.margin, (percent) => percent / 100),
  budget: figureOrNull(typed.budget),
  cardMegabytesPerSecond: figureOrNull(typed.cardMegabytesPerSecond),
  cameras: typed.cameras.map(({ clipId, name, hoursPerDay }) => ({
    clipId,
    name,
    hoursPerDay: figure(hoursPerDay),
  })),
  places: typed.places
    .filter(({ isChosen }) => isChosen)
    .map(({ rigId, volumeId, price }) => ({ rigId, volumeId, price: figureOrNull(price) })),
});

/** Only chosen places are sent: the first of those is not the first of all. */
function fieldOf(place: string, { places }: Typed): string {
  const [, at, rest] = /^places\.(\d+)\.(.+)$/.exec(place) ?? [];
  if (at === undefined) return place;
  const chosen = places.flatMap(({ isChosen }, index) => (isChosen ? [index] : []));
  return `places.${chosen[Number(at)] ?? at}.${rest}`;
}

/** The question of a decision. @param id of the brief that is changed; null for a new one */
export function BriefForm({
  offer,
  id,
  name,
  brief,
}: {
  offer: Offer;
  id: string | null;
  name: string;
  brief: Brief | null;
}) {
  const currency = useCurrency();
  const router = useRouter();
  const defaults = typedOf(offer, name, brief);
  const asking = useAskedForm({
    schema: briefInput,
    defaults,
    fit: (kept) => ({
      ...kept,
      places: defaults.places.map((place) => kept.places.find((one) => isSamePlace(one, place)) ?? place),
    }),
    bodyOf: requestOf,
    fieldOf,
    draft: `brief-${id ?? 'new'}`,
  });
  useFormUndo(asking.form, 'Brief');
  const save = async () => {
    const saved = await asking.ask(async (body) => {
      if (id === null) return callApi('POST /api/briefs', { body });
      await callApi('PUT /api/briefs/{id}', { ids: { id }, body });
      return { id };
    });
    if (saved) router.push(`/choose/${saved.id}`);
  };
  return (
    <Form of={asking} label="Brief" className="flex max-w-4xl flex-col gap-5" onSubmit={save}>
      <div className="flex flex-wrap items-start gap-4">
        <FormTextField name="name" label="Job" className="w-80" />
        <FormTextField
          name="question"
          label="What has to be decided"
          placeholder="Which format and which volume for this job?"
          className="min-w-80 flex-1"
        />
      </div>
      <Cameras offer={offer} of={asking} />
      <section aria-label="Requirements" className="flex flex-wrap items-start gap-4">
        <FormNumberField name="days" label="Shooting days" />
        <FormNumberField name="streams" label="Cameras at once" />
        <FormNumberField name="looks" label="Grades on each" />
        <FormChoice name="scale" label="Playback scale" options={scaleOptions} />
        <FormChoice name="speed" label="Speed" options={speedOptions} />
        <FormChoice name="grade" label="Grade required" options={requiredGradeOptions} />
        <FormNumberField name="margin" label="Margin" unit="%" />
        <FormNumberField name="budget" label="Budget for a volume" unit={currency} placeholder="none" />
        <FormNumberField
          name="cardMegabytesPerSecond"
          label="Card in its reader"
          unit="MB/s"
          placeholder="as known"
          className="w-44"
        />
      </section>
      <Places offer={offer} />
      <FormProblems />
      <FormButtons of={asking} verb={id === null ? 'Draw the map' : 'Save'} />
    </Form>
  );
}

const speedOptions = (['1', '2', '4', '8'] as const).map((speed) => [speed, `${speed}x`] as const);

function Cameras({ offer, of }: { offer: Offer; of: Pick<DrawnForm<Typed>, 'form'> }) {
  const { cameras } = useTyped(of);
  const change = (next: Typed['cameras']) =>
    of.form.setValue('cameras', next, { shouldValidate: of.form.formState.isSubmitted });
  const unused = offer.clips.find(({ id }) => !cameras.some(({ clipId }) => clipId === id)) ?? offer.clips[0];
  return (
    <section aria-label="Cameras">
      <h2>Cameras and daily footage</h2>
      <ul className="mt-2 flex flex-col gap-2">
        {cameras.map((camera, at) => (
          <CameraFields
            key={camera.key}
            offer={offer}
            at={at}
            camera={camera}
            remove={() => change(cameras.filter((_, index) => index !== at))}
          />
        ))}
      </ul>
      <Button
        className="mt-2"
        disabled={!unused}
        onClick={() =>
          unused &&
          change([
            ...cameras,
            {
              key:
                greatest(
                  cameras.map(({ key }) => key),
                  -1,
                ) + 1,
              clipId: unused.id,
              name: suggestedName(unused.path),
              hoursPerDay: '1',
            },
          ])
        }
      >
        <Plus aria-hidden className="size-4" />
        Add a camera
      </Button>
    </section>
  );
}

function CameraFields({
  offer,
  at,
  camera,
  remove,
}: {
  offer: Offer;
  at: number;
  camera: Typed['cameras'][number];
  remove: () => void;
}) {
  const clip = offer.clips.find(({ id }) => id === camera.clipId);
  return (
    <li className="flex flex-wrap items-start gap-3 border bg-surface p-3">
      <FormTextField name={`cameras.${at}.name`} label="Camera" className="w-48" />
      <FormSelect
        name={`cameras.${at}.clipId`}
        label="Reference clip"
        className="min-w-64 flex-1"
        options={[
          ...(clip ? [] : [[camera.clipId, 'as saved; its clip is no longer in the library'] as const]),
          ...offer.clips.map(
            ({ id, path, also, proxy }) =>
              [id, `${withOtherNames(path, also)}${proxy ? ' (proxy)' : ''}`] as const,
          ),
        ]}
      />
      <FormNumberField name={`cameras.${at}.hoursPerDay`} label="A day" unit="h" />
      <Button look="quiet" className="mt-5" aria-label={`Remove ${camera.name}`} onClick={remove}>
        <Trash2 aria-hidden className="size-4" />
      </Button>
      {clip?.format && (
        <p className="w-full text-xs text-muted">
          {formatLabel(clip.format)}, mean {megabitsPerSecond(clip.meanBitsPerSecond)}, peak{' '}
          {megabitsPerSecond(clip.peakBitsPerSecond)}
        </p>
      )}
    </li>
  );
}

function Places({ offer }: { offer: Offer }) {
  const rigs = [...new Set(offer.volumes.map(({ rigId }) => rigId))];
  return (
    <section aria-label="Volumes">
      <h2>Volumes to choose from, with their prices</h2>
      <p className="text-sm text-muted">
        0: nothing has to be bought. Left empty, a price is not known, and what is not known does not come
        first.
      </p>
      {rigs.map((rigId) => {
        const first = offer.volumes.find((volume) => volume.rigId === rigId);
        return (
          <fieldset key={rigId} className="mt-2 border bg-surface p-3">
            <legend className="px-1 text-sm font-semibold">
              {first?.rigName}
              {rigId === offer.rigId ? ', this rig' : first?.imported ? ', imported' : ''}{' '}
              {first?.imported?.simulated && <Simulated />}
            </legend>
            <ul className="grid gap-x-6 gap-y-1 lg:grid-cols-2">
              {offer.volumes.map(
                (volume, at) =>
                  volume.rigId === rigId && <PlaceField key={volume.volumeId} volume={volume} at={at} />,
              )}
            </ul>
          </fieldset>
        );
      })}
    </section>
  );
}

function PlaceField({ volume, at }: { volume: Offer['volumes'][number]; at: number }) {
  const currency = useCurrency();
  const isChosen = useWatch({ name: `places.${at}.isChosen` }) as boolean;
  return (
    <li className="flex items-center gap-2 text-sm">
      <FormCheck name={`places.${at}.isChosen`} className="min-h-8 min-w-0 flex-1">
        <span className="min-w-0 shrink">
          <MiddleName name={volume.name} tail={10} />
        </span>
        {volume.simulated && <Simulated />}
      </FormCheck>
      <FormFigure
        name={`places.${at}.price`}
        label={`Price of ${volume.name}, ${currency}`}
        placeholder={`price, ${currency}`}
        disabled={!isChosen}
        className="w-full max-w-24"
      />
    </li>
  );
}
