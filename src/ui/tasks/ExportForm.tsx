'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { plainName } from '@/core/simulated';
import {
  deliveries,
  exportCodecIds,
  exportCodecs,
  exportSpeeds,
  type ExportChoice,
  type ExportCodecId,
  type ExportControl,
  type ExportPicture,
  type ExportSound,
  type ExportSpeed,
} from '@/core/tasks/exportCodecs';
import type { TaskChoices } from '@/server/tasks';
import { Button } from '../parts/Button';
import { CacheChoice, Choice, ReadsChoice } from '../parts/Choice';
import { figureOrNull, FormError, NumberField, SelectField } from '../parts/Field';
import { useSend } from '../useSend';

/** An export as it stands in the form: figures as they are typed. */
type Typed = Omit<ExportChoice, 'quality' | 'megabits' | 'keyDistance'> & {
  readonly quality: string;
  readonly megabits: string;
  readonly keyDistance: string;
};

const typedOf = ({ quality, megabits, keyDistance, ...choice }: ExportChoice): Typed => ({
  ...choice,
  quality: quality === null ? '' : String(quality),
  megabits: megabits === null ? '' : String(megabits),
  keyDistance: keyDistance === null ? '' : String(keyDistance),
});

const controlWords: Readonly<Record<ExportControl, string>> = {
  quality: 'Quality',
  rate: 'Data rate',
  class: 'Class',
  lossless: 'Lossless',
};
const soundWords: Readonly<Record<ExportSound, string>> = {
  none: 'No sound',
  aac: 'AAC',
  pcm: 'PCM, 24 bit',
};

/** A choice as another codec takes it: what it has no use for goes, what it lacks is as is usual for it. */
function forCodec(codec: ExportCodecId, before: Typed): Typed {
  const { pictures, controls, quality, speeds, sounds, longGop } = exportCodecs[codec];
  const known = Object.keys(pictures) as [ExportPicture];
  const picture = known.includes(before.picture) ? before.picture : known[0];
  const control = controls.includes(before.control) ? before.control : (controls[0] ?? 'quality');
  return withPicture(picture, {
    ...before,
    codec,
    control,
    quality: quality ? String(quality.usual) : '',
    megabits: before.megabits || '20',
    speed: speeds ? (before.speed ?? 'balanced') : null,
    sound: sounds.includes(before.sound) ? before.sound : (sounds[0] ?? 'none'),
    keyDistance: longGop ? before.keyDistance : '',
  });
}

/** A choice with another picture, and a class that takes it. */
function withPicture(picture: ExportPicture, before: Typed): Typed {
  const { classes } = exportCodecs[before.codec];
  const fitting = classes?.filter(({ pictures }) => pictures.includes(picture)) ?? [];
  const rateClass = fitting.some(({ id }) => id === before.rateClass)
    ? before.rateClass
    : (fitting.at(-1)?.id ?? null);
  return { ...before, picture, rateClass };
}

/** Choose what to export, as what, and to where. */
export function ExportForm({
  choices: { volumes, timelines, clips },
  wanted,
}: {
  choices: TaskChoices;
  /** `t:` and a timeline, or `c:` and a clip, that is chosen at first. */
  wanted: string | null;
}) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const targets = [
    ...timelines
      .filter(({ slots }) => slots > 0)
      .map(({ id, name }) => [`t:${id}`, `Timeline: ${name}`] as const),
    ...clips.map(
      (clip) => [`c:${clip.id}`, `${clip.path} — ${plainName(clip.volumeName, clip.simulated)}`] as const,
    ),
  ];
  const [what, setWhat] = useState(
    () => targets.find(([value]) => value === wanted)?.[0] ?? targets[0]?.[0] ?? '',
  );
  const [delivery, setDelivery] = useState<string>('review');
  const [typed, setTyped] = useState<Typed>(() =>
    typedOf((deliveries[0] as (typeof deliveries)[number]).choice),
  );
  const [targetVolumeId, setTargetVolumeId] = useState(volumes[0]?.id ?? '');
  const [read, setRead] = useState<'originals' | 'proxies'>('originals');
  const [cache, setCache] = useState<'cold' | 'warm'>('cold');
  const [keep, setKeep] = useState(false);
  const [likeness, setLikeness] = useState(false);
  const [threads, setThreads] = useState('');
  const change = (next: Typed) => {
    setTyped(next);
    setDelivery('');
  };
  const choose = (id: string) => {
    const found = deliveries.find((one) => one.id === id);
    setDelivery(id);
    if (found) setTyped(typedOf(found.choice));
  };
  const codec = exportCodecs[typed.codec];
  const start = async () => {
    const made = await send<{ id: string }>('/api/trials', 'POST', {
      kind: 'export',
      ...(what.startsWith('t:') ? { timelineId: what.slice(2) } : { clipId: what.slice(2) }),
      ...typed,
      quality: typed.control === 'quality' ? figureOrNull(typed.quality) : null,
      megabits: typed.control === 'rate' ? figureOrNull(typed.megabits) : null,
      rateClass: typed.control === 'class' ? typed.rateClass : null,
      keyDistance: figureOrNull(typed.keyDistance),
      targetVolumeId,
      read,
      warm: cache === 'warm',
      keep,
      likeness,
      threads: threads.trim() === '' ? 0 : figureOrNull(threads),
    });
    if (made) router.push(`/trials/tasks/${made.id}`);
  };
  const at = (field: string) => error?.field === field;
  const delivered = deliveries.find(({ id }) => id === delivery);
  const simulated = volumes.find(({ id }) => id === targetVolumeId)?.simulated ?? false;
  return (
    <form
      aria-label="Export"
      className="flex flex-col gap-3 border bg-surface p-4"
      onSubmit={(event) => {
        event.preventDefault();
        void start();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <SelectField
          label="Clip or timeline"
          value={what}
          onChange={setWhat}
          options={targets}
          invalid={at('timelineId') || at('clipId')}
          className="min-w-64 flex-1"
        />
        <SelectField
          label="Delivery"
          value={delivery}
          onChange={choose}
          options={[
            ...deliveries.map(({ id, name }) => [id, name] as const),
            ...(delivery === '' ? [['', 'Own settings'] as const] : []),
          ]}
          className="w-44"
        />
        <SelectField
          label="To volume"
          value={targetVolumeId}
          onChange={setTargetVolumeId}
          options={volumes.map(({ id, name, simulated: made }) => [id, plainName(name, made)])}
          invalid={at('targetVolumeId')}
          className="w-56"
        />
        <Button look="main" type="submit" disabled={busy || what === '' || targetVolumeId === ''}>
          Export and measure
        </Button>
      </div>
      <fieldset className="flex flex-wrap items-end gap-3">
        <legend className="sr-only">Written as</legend>
        <SelectField
          label="Codec"
          value={typed.codec}
          onChange={(value) => change(forCodec(value as ExportCodecId, typed))}
          options={exportCodecIds.map((id) => [id, exportCodecs[id].name])}
          className="w-40"
        />
        <SelectField
          label="Depth and chroma"
          value={typed.picture}
          onChange={(value) => change(withPicture(value as ExportPicture, typed))}
          options={Object.keys(codec.pictures).map((picture) => [picture, picture])}
          invalid={at('picture')}
          className="w-36"
        />
        {codec.controls.length > 1 && (
          <Choice
            label="Size set by"
            value={typed.control}
            onChange={(control) => change({ ...typed, control })}
            options={codec.controls.map((control) => [control, controlWords[control]])}
          />
        )}
        {typed.control === 'quality' && (
          <NumberField
            label={`${codec.quality?.name ?? 'Quality'}, ${codec.quality?.best} best`}
            value={typed.quality}
            onChange={(quality) => change({ ...typed, quality })}
            invalid={at('quality')}
            className="w-28"
          />
        )}
        {typed.control === 'rate' && (
          <NumberField
            label="Data rate"
            unit="Mb/s"
            value={typed.megabits}
            onChange={(megabits) => change({ ...typed, megabits })}
            invalid={at('megabits')}
          />
        )}
        {typed.control === 'class' && (
          <SelectField
            label="Class"
            value={typed.rateClass ?? ''}
            onChange={(rateClass) => change({ ...typed, rateClass })}
            options={(codec.classes ?? [])
              .filter(({ pictures }) => pictures.includes(typed.picture))
              .map(({ id, name }) => [id, name])}
            invalid={at('rateClass')}
            className="w-32"
          />
        )}
        {typed.speed !== null && (
          <SelectField
            label="Encoder speed"
            value={typed.speed}
            onChange={(speed) => change({ ...typed, speed: speed as ExportSpeed })}
            options={exportSpeeds.map((speed) => [speed, speed])}
            className="w-32"
          />
        )}
        {codec.longGop && (
          <NumberField
            label="Key frame every"
            unit="frames"
            value={typed.keyDistance}
            placeholder="2 s"
            onChange={(keyDistance) => change({ ...typed, keyDistance })}
            invalid={at('keyDistance')}
          />
        )}
        <SelectField
          label="Sound"
          value={typed.sound}
          onChange={(sound) => change({ ...typed, sound: sound as ExportSound })}
          options={codec.sounds.map((sound) => [sound, soundWords[sound]])}
          invalid={at('sound')}
          className="w-32"
        />
      </fieldset>
      <p className="text-sm text-muted">
        {delivered ? `${delivered.name}: ${delivered.purpose}. ` : ''}The result is decoded whole and held
        against what went in before its time counts; it goes to a folder of its own on the volume and is
        removed afterwards
        {keep ? ' from there: it is kept in exports' : ''}.
        {simulated && ' The volume is simulated: writes are held to the times of its model.'}
      </p>
      <details>
        <summary className="w-fit text-sm text-muted hover:text-ink">Further conditions</summary>
        <div className="mt-2 flex flex-wrap items-end gap-4">
          <ReadsChoice value={read} onChange={setRead} />
          <CacheChoice value={cache} onChange={setCache} />
          <NumberField
            label="Threads"
            value={threads}
            placeholder="one per core"
            onChange={setThreads}
            invalid={at('threads')}
          />
          <label className="flex h-9 items-center gap-2 text-sm">
            <input type="checkbox" checked={keep} onChange={(event) => setKeep(event.target.checked)} />
            Keep the result
          </label>
          <label className="flex h-9 items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={likeness}
              onChange={(event) => setLikeness(event.target.checked)}
            />
            Measure the loss (SSIM, PSNR)
          </label>
        </div>
      </details>
      <FormError message={error?.message} />
    </form>
  );
}
