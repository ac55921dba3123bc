'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { deviceName } from '@/core/decode/standIns';
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
} from '@/core/tasks/exportCodecs';
import type { TaskChoices } from '@/server/timelines/tasks';
import { deliveryInput } from '@/core/kinds/export';
import { FormProblems, FormTextField, InnerForm } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';
import { figureOrNull, FormError, NumberField } from '../parts/Field';
import { useSend } from '../useSend';
import { SelectField } from '../parts/Select';

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

interface Kept {
  readonly id: string;
  readonly name: string;
  readonly choice: ExportChoice;
}

/** The choice of an export's delivery and settings, and what is sent of it. @param own deliveries that were kept */
export function useExportChoice(own: readonly Kept[]) {
  const all: readonly Kept[] = [...deliveries, ...own];
  const [delivery, setDelivery] = useState<string>('review');
  const [typed, setTyped] = useState<Typed>(() =>
    typedOf((deliveries[0] as (typeof deliveries)[number]).choice),
  );
  return {
    typed,
    delivery,
    all,
    isOwn: own.some(({ id }) => id === delivery),
    change: (next: Typed) => {
      setTyped(next);
      setDelivery('');
    },
    choose: (id: string) => {
      const found = all.find((one) => one.id === id);
      setDelivery(id);
      if (found) setTyped(typedOf(found.choice));
    },
    /** After it was kept under a name. */
    kept: setDelivery,
    body: () => ({
      ...typed,
      quality: typed.control === 'quality' ? figureOrNull(typed.quality) : null,
      megabits: typed.control === 'rate' ? figureOrNull(typed.megabits) : null,
      rateClass: typed.control === 'class' ? typed.rateClass : null,
      keyDistance: figureOrNull(typed.keyDistance),
    }),
  };
}
type ChoiceOfExport = ReturnType<typeof useExportChoice>;

/** One of the deliveries, or settings of one's own, which can be kept as one. */
export function DeliveryField({ delivery, all, isOwn, choose, kept, body }: ChoiceOfExport) {
  const router = useRouter();
  const [naming, setNaming] = useState(false);
  const { busy, error, send } = useSend();
  const forget = async () => {
    if (!(await send('DELETE /api/deliveries/{id}', { ids: { id: delivery } }))) return;
    kept('');
    router.refresh();
  };
  return (
    <>
      <SelectField
        label="Delivery"
        value={delivery}
        onChange={choose}
        options={[
          ...all.map(({ id, name: label }) => [id, label] as const),
          ...(all.some(({ id }) => id === delivery) ? [] : [['', 'Own settings'] as const]),
        ]}
        className="w-44"
      />
      {isOwn && (
        <Button look="quiet" className="mt-5" disabled={busy} onClick={() => void forget()}>
          Remove this delivery
        </Button>
      )}
      {delivery === '' && !naming && (
        <Button look="quiet" className="mt-5" onClick={() => setNaming(true)}>
          Save as a delivery
        </Button>
      )}
      {delivery === '' && naming && (
        <DeliveryName
          body={body}
          onKept={(id) => {
            setNaming(false);
            kept(id);
            router.refresh();
          }}
          onCancel={() => setNaming(false)}
        />
      )}
      <FormError message={error?.message} />
    </>
  );
}

/** Keeps the settings of the form around under a name. */
function DeliveryName({
  body,
  onKept,
  onCancel,
}: Pick<ChoiceOfExport, 'body'> & { onKept: (id: string) => void; onCancel: () => void }) {
  const keeping = useRequestForm('POST /api/deliveries', {
    schema: deliveryInput,
    defaults: { name: '' },
    bodyOf: ({ name }) => ({ ...body(), name }),
  });
  const keep = async () => {
    const saved = await keeping.send();
    if (saved) onKept(saved.id);
  };
  return (
    <InnerForm of={keeping} label="New delivery" onSubmit={keep} className="flex flex-wrap items-start gap-2">
      <FormTextField name="name" label="Its name" className="w-72" />
      <Button className="mt-5" disabled={keeping.busy} onClick={() => void keep()}>
        Save
      </Button>
      <Button look="quiet" className="mt-5" onClick={onCancel}>
        Cancel
      </Button>
      <FormProblems />
    </InnerForm>
  );
}

/** What a delivery is for, in a sentence; empty of settings of one's own. */
export function deliveryWords(delivery: string): string {
  const found = deliveries.find(({ id }) => id === delivery);
  return found ? `${found.name}: ${found.purpose}.` : '';
}

/** The device that encodes what the form stands at; '': software. One that does not encode it is not kept. */
export function useEncodeDevice(
  devices: TaskChoices['encodeDevices'],
  { codec, picture }: Pick<ExportChoice, 'codec' | 'picture'>,
) {
  const [chosen, setChosen] = useState('');
  const fitting = devices.filter(({ encodes }) =>
    encodes.some((one) => one.codec === codec && one.picture === picture),
  );
  const device = fitting.some(({ id }) => id === chosen) ? chosen : '';
  return { device, choose: setChosen, fitting };
}

/** What encodes an export, where there is a choice. */
export function EncoderField({
  device,
  choose,
  fitting,
  invalid,
}: ReturnType<typeof useEncodeDevice> & { invalid: boolean }) {
  return (
    fitting.length > 0 && (
      <SelectField
        label="Encoder"
        value={device}
        onChange={choose}
        options={[['', 'Software'] as const, ...fitting.map(({ id }) => [id, deviceName(id)] as const)]}
        invalid={invalid}
        className="w-44"
      />
    )
  );
}

/** What sets the size of an export: quality, rate or class, as its codec has them. */
function SizeFields({
  typed,
  change,
  at,
}: Pick<ChoiceOfExport, 'typed' | 'change'> & { at: (field: string) => boolean }) {
  const codec = exportCodecs[typed.codec];
  return (
    <>
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
    </>
  );
}

/** Codec, quality and sound of an export. @param device that encodes it; '': software */
export function ExportFields({
  typed,
  change,
  device,
  at,
}: Pick<ChoiceOfExport, 'typed' | 'change'> & { device: string; at: (field: string) => boolean }) {
  const codec = exportCodecs[typed.codec];
  return (
    <fieldset className="flex flex-wrap items-end gap-3">
      <legend className="sr-only">Written as</legend>
      <SelectField
        label="Codec"
        value={typed.codec}
        onChange={(value) => change(forCodec(value, typed))}
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
      <SizeFields typed={typed} change={change} at={at} />
      {typed.speed !== null && device === '' && (
        <SelectField
          label="Encoder speed"
          value={typed.speed}
          onChange={(speed) => change({ ...typed, speed: speed })}
          options={exportSpeeds.map((speed) => [speed, speed])}
          className="w-32"
        />
      )}
      {codec.longGop && (
        <NumberField
          label="Key frame every"
          unit={typed.keyDistance === '' ? '' : 'frames'}
          value={typed.keyDistance}
          placeholder="2 s"
          onChange={(keyDistance) => change({ ...typed, keyDistance })}
          invalid={at('keyDistance')}
        />
      )}
      <SelectField
        label="Sound"
        value={typed.sound}
        onChange={(sound) => change({ ...typed, sound: sound })}
        options={codec.sounds.map((sound) => [sound, soundWords[sound]])}
        invalid={at('sound')}
        className="w-32"
      />
    </fieldset>
  );
}
