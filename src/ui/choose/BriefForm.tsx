'use client';
import { megabitsPerSecond } from '@/core/format';
import { withOtherNames } from '@/core/media/fileName';
import { Plus, Trash2 } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Brief } from '@/core/choose/brief';
import { formatLabel } from '@/core/media/format';
import { grades, type Grade } from '@/core/playback/grade';
import type { PlaybackScale } from '@/core/playback/slots';
import type { BriefForm as Offer } from '@/server/decide/briefs';
import { ApiError, callApi } from '../api';
import { Button } from '../parts/Button';
import { Choice, ScaleChoice } from '../parts/Choice';
import { figure, figureOrNull, figureAs, FormError, inputLook, NumberField, TextField } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { useUndo } from '../useUndo';
import { greatest } from '@/core/stats/extremes';
import { Checkbox } from '../parts/Checkbox';
import { SelectField } from '../parts/Select';
import { useCurrency } from '../shell/status';

interface CameraDraft {
  readonly key: number;
  readonly clipId: string;
  readonly name: string;
  readonly hours: string;
}

interface Draft {
  readonly name: string;
  readonly question: string;
  readonly cameras: readonly CameraDraft[];
  readonly days: string;
  readonly streams: string;
  readonly looks: string;
  readonly scale: PlaybackScale;
  readonly speed: '1' | '2' | '4' | '8';
  readonly grade: Grade;
  readonly margin: string;
  readonly budget: string;
  readonly card: string;
  /** Typed price by "rig volume"; absent where the volume is not among the places. */
  readonly places: Readonly<Record<string, string>>;
}

const placeKey = ({ rigId, volumeId }: { readonly rigId: string; readonly volumeId: string }) =>
  `${rigId} ${volumeId}`;

/** A camera's name as its clip suggests it: the folder it lies in. */
function suggestedName(path: string): string {
  const folder = path.split('/').at(-2) ?? path.split('/').at(-1) ?? 'Camera';
  return folder.replace(/[-_]+/g, ' ').replace(/^./, (letter) => letter.toUpperCase());
}

function draftOf(offer: Offer, name: string, brief: Brief | null): Draft {
  if (brief) {
    return {
      name,
      question: brief.question,
      days: String(brief.days),
      streams: String(brief.streams),
      looks: String(brief.looks),
      scale: brief.scale,
      speed: String(brief.speed) as Draft['speed'],
      grade: brief.grade,
      margin: String(Math.round(brief.margin * 100)),
      budget: brief.budget === null ? '' : String(brief.budget),
      card: brief.cardBytesPerSecond === null ? '' : String(brief.cardBytesPerSecond / 1e6),
      cameras: brief.cameras.map((camera, key) => ({
        key,
        name: camera.name,
        hours: String(camera.hoursPerDay),
        clipId:
          offer.clips.find(({ contentHash }) => contentHash === camera.contentHash)?.id ?? camera.contentHash,
      })),
      places: Object.fromEntries(
        brief.places.map((place) => [placeKey(place), place.price === null ? '' : String(place.price)]),
      ),
    };
  }
  const [clip] = offer.clips;
  return {
    name: '',
    question: '',
    days: '10',
    streams: '1',
    looks: '0',
    scale: 'full',
    speed: '1',
    grade: 'workable',
    margin: '25',
    budget: '',
    card: '',
    cameras: clip ? [{ key: 0, clipId: clip.id, name: suggestedName(clip.path), hours: '2' }] : [],
    places: Object.fromEntries(
      offer.volumes
        .filter(({ rigId, kind }) => rigId === offer.rigId && kind !== 'card')
        .map((volume) => [placeKey(volume), volume.price === null ? '' : String(volume.price)]),
    ),
  };
}

function requestOf(draft: Draft) {
  return {
    name: draft.name,
    question: draft.question,
    days: figure(draft.days),
    streams: figure(draft.streams),
    looks: figure(draft.looks),
    scale: draft.scale,
    speed: Number(draft.speed),
    grade: draft.grade,
    margin: figureAs(draft.margin, (percent) => percent / 100),
    budget: figureOrNull(draft.budget),
    cardMegabytesPerSecond: figureOrNull(draft.card),
    cameras: draft.cameras.map(({ clipId, name, hours }) => ({ clipId, name, hoursPerDay: figure(hours) })),
    places: Object.entries(draft.places).map(([key, price]) => {
      const [rigId = '', volumeId = ''] = key.split(' ');
      return { rigId, volumeId, price: figureOrNull(price) };
    }),
  };
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
  const { value: draft, set: edit } = useUndo<Draft>(draftOf(offer, name, brief), 'Brief');
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);
  /** @param merge typing in one field is one step back; what is taken out or added is a step of its own */
  const set = <Key extends keyof Draft>(key: Key, value: Draft[Key], merge: string | null = key) =>
    edit((now) => ({ ...now, [key]: value }), `Change ${key}`, merge);
  const save = () => {
    setBusy(true);
    setError(null);
    const body = requestOf(draft);
    (id === null
      ? callApi('POST /api/briefs', { body }).then((made) => made.id)
      : callApi('PUT /api/briefs/{id}', { ids: { id }, body }).then(() => id)
    ).then(
      (at) => router.push(`/choose/${at}`),
      (failure: unknown) => {
        setBusy(false);
        setError(failure instanceof ApiError ? failure : new ApiError(String(failure), null));
      },
    );
  };
  const wrong = (field: string) => error?.field?.startsWith(field) ?? false;
  return (
    <form
      aria-label="Brief"
      className="flex max-w-4xl flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <div className="flex flex-wrap gap-4">
        <TextField
          label="Job"
          value={draft.name}
          onChange={(value) => set('name', value)}
          invalid={wrong('name')}
          className="w-80"
        />
        <TextField
          label="What has to be decided"
          value={draft.question}
          onChange={(value) => set('question', value)}
          placeholder="Which format and which volume for this job?"
          className="min-w-80 flex-1"
        />
      </div>
      <Cameras
        offer={offer}
        draft={draft}
        onChange={(cameras, field) => set('cameras', cameras, field)}
        error={error}
      />
      <section aria-label="Requirements" className="flex flex-wrap items-end gap-4">
        <NumberField
          label="Shooting days"
          value={draft.days}
          onChange={(value) => set('days', value)}
          invalid={wrong('days')}
        />
        <NumberField
          label="Cameras at once"
          value={draft.streams}
          onChange={(value) => set('streams', value)}
          invalid={wrong('streams')}
        />
        <NumberField
          label="Grades on each"
          value={draft.looks}
          onChange={(value) => set('looks', value)}
          invalid={wrong('looks')}
        />
        <ScaleChoice value={draft.scale} onChange={(value) => set('scale', value)} />
        <Choice
          label="Speed"
          value={draft.speed}
          onChange={(value) => set('speed', value)}
          options={[
            ['1', '1x'],
            ['2', '2x'],
            ['4', '4x'],
            ['8', '8x'],
          ]}
        />
        <Choice
          label="Grade required"
          value={draft.grade}
          onChange={(value) => set('grade', value)}
          options={grades.slice(0, 3).map((grade) => [grade, grade] as const)}
        />
        <NumberField
          label="Margin"
          unit="%"
          value={draft.margin}
          onChange={(value) => set('margin', value)}
          invalid={wrong('margin')}
        />
        <NumberField
          label="Budget for a volume"
          unit={currency}
          value={draft.budget}
          onChange={(value) => set('budget', value)}
          invalid={wrong('budget')}
          placeholder="none"
        />
        <NumberField
          label="Card in its reader"
          unit="MB/s"
          value={draft.card}
          onChange={(value) => set('card', value)}
          invalid={wrong('cardMegabytes')}
          placeholder="as known"
          className="w-44"
        />
      </section>
      <Places offer={offer} draft={draft} onChange={(places, field) => set('places', places, field)} />
      <div className="flex items-center gap-4">
        <Button look="main" type="submit" disabled={busy}>
          {id === null ? 'Draw the map' : 'Save'}
        </Button>
        <FormError message={error?.message} />
      </div>
    </form>
  );
}

function Cameras({
  offer,
  draft,
  onChange,
  error,
}: {
  offer: Offer;
  draft: Draft;
  onChange: (cameras: readonly CameraDraft[], field: string | null) => void;
  error: ApiError | null;
}) {
  const { cameras } = draft;
  const edit = (at: number, part: Partial<CameraDraft>) =>
    onChange(
      cameras.map((camera, index) => (index === at ? { ...camera, ...part } : camera)),
      `camera ${cameras[at]?.key} ${Object.keys(part).join()}`,
    );
  const unused = offer.clips.find(({ id }) => !cameras.some(({ clipId }) => clipId === id)) ?? offer.clips[0];
  return (
    <section aria-label="Cameras">
      <h2>Cameras and daily footage</h2>
      <ul className="mt-2 flex flex-col gap-2">
        {cameras.map((camera, at) => {
          const clip = offer.clips.find(({ id }) => id === camera.clipId);
          return (
            <li key={camera.key} className="flex flex-wrap items-end gap-3 border bg-surface p-3">
              <TextField
                label="Camera"
                value={camera.name}
                onChange={(name) => edit(at, { name })}
                invalid={error?.field === `cameras[${at}].name`}
                className="w-48"
              />
              <SelectField
                label="Reference clip"
                value={camera.clipId}
                onChange={(clipId) => edit(at, { clipId })}
                invalid={error?.field === `cameras[${at}].clipId`}
                className="min-w-64 flex-1"
                options={[
                  ...(clip
                    ? []
                    : [[camera.clipId, 'as saved; its clip is no longer in the library'] as const]),
                  ...offer.clips.map(
                    ({ id, path, also, proxy }) =>
                      [id, `${withOtherNames(path, also)}${proxy ? ' (proxy)' : ''}`] as const,
                  ),
                ]}
              />
              <NumberField
                label="A day"
                unit="h"
                value={camera.hours}
                onChange={(hours) => edit(at, { hours })}
                invalid={error?.field === `cameras[${at}].hoursPerDay`}
              />
              <Button
                look="quiet"
                aria-label={`Remove ${camera.name}`}
                onClick={() =>
                  onChange(
                    cameras.filter((_, index) => index !== at),
                    null,
                  )
                }
              >
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
        })}
      </ul>
      <Button
        className="mt-2"
        disabled={!unused}
        onClick={() =>
          unused &&
          onChange(
            [
              ...cameras,
              {
                key:
                  greatest(
                    cameras.map(({ key }) => key),
                    -1,
                  ) + 1,
                clipId: unused.id,
                name: suggestedName(unused.path),
                hours: '1',
              },
            ],
            null,
          )
        }
      >
        <Plus aria-hidden className="size-4" />
        Add a camera
      </Button>
    </section>
  );
}

function Places({
  offer,
  draft,
  onChange,
}: {
  offer: Offer;
  draft: Draft;
  onChange: (places: Draft['places'], field: string | null) => void;
}) {
  const currency = useCurrency();
  const rigs = [...new Set(offer.volumes.map(({ rigId }) => rigId))];
  const toggle = (key: string, price: number | null) => {
    if (key in draft.places)
      onChange(Object.fromEntries(Object.entries(draft.places).filter(([one]) => one !== key)), null);
    else onChange({ ...draft.places, [key]: price === null ? '' : String(price) }, null);
  };
  return (
    <section aria-label="Volumes">
      <h2>Volumes to choose from, with their prices</h2>
      <p className="text-sm text-muted">
        0: nothing has to be bought. Left empty, a price is not known, and what is not known does not come
        first.
      </p>
      {rigs.map((rigId) => {
        const volumes = offer.volumes.filter((volume) => volume.rigId === rigId);
        const [first] = volumes;
        return (
          <fieldset key={rigId} className="mt-2 border bg-surface p-3">
            <legend className="px-1 text-sm font-semibold">
              {first?.rigName}
              {rigId === offer.rigId ? ', this rig' : first?.imported ? ', imported' : ''}{' '}
              {first?.imported?.simulated && <Simulated />}
            </legend>
            <ul className="grid gap-x-6 gap-y-1 lg:grid-cols-2">
              {volumes.map((volume) => {
                const key = placeKey(volume);
                return (
                  <li key={key} className="flex items-center gap-2 text-sm">
                    <label className="flex min-h-8 min-w-0 flex-1 items-center gap-2">
                      <Checkbox checked={key in draft.places} onChange={() => toggle(key, volume.price)} />
                      <span className="min-w-0 shrink">
                        <MiddleName name={volume.name} tail={10} />
                      </span>
                      {volume.simulated && <Simulated />}
                    </label>
                    <input
                      aria-label={`Price of ${volume.name}, ${currency}`}
                      inputMode="decimal"
                      placeholder={`price, ${currency}`}
                      disabled={!(key in draft.places)}
                      value={draft.places[key] ?? ''}
                      onChange={(event) =>
                        onChange({ ...draft.places, [key]: event.target.value }, `price ${key}`)
                      }
                      className={`${inputLook} figure max-w-24 disabled:opacity-40`}
                    />
                  </li>
                );
              })}
            </ul>
          </fieldset>
        );
      })}
    </section>
  );
}
