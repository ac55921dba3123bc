'use client';
import { ToggleGroup } from 'radix-ui';
import type { VolumeKind } from '@/core/storage/volumeFacts';
import type { FieldsWay, Meanwhile, SoundChoice as Sound, WorkingDepth } from '@/core/playback/settings';
import { grades } from '@/core/playback/grade';
import type { PlaybackScale, Policy } from '@/core/playback/slots';

interface ChoiceProps<Value extends string> {
  readonly label: string;
  readonly value: Value;
  readonly options: readonly (readonly [Value, string])[];
  readonly onChange: (value: Value) => void;
}

/** One of a few, all in sight. */
export function Choice<Value extends string>({ label, value, options, onChange }: ChoiceProps<Value>) {
  return (
    <div>
      <span aria-hidden className="mb-1 block text-xs text-muted">
        {label}
      </span>
      <ToggleGroup.Root
        type="single"
        aria-label={label}
        value={value}
        onValueChange={(next) => {
          if (next) onChange(next as Value);
        }}
        className="inline-flex border border-edge"
      >
        {options.map(([option, name]) => (
          <ToggleGroup.Item
            key={option}
            value={option}
            className="h-9 border-r border-edge px-3 text-sm last:border-r-0 data-[state=off]:text-muted data-[state=on]:bg-ink data-[state=on]:font-semibold data-[state=on]:text-ground"
          >
            {name}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  );
}

/** Playback scales with their names. */
export const scaleOptions = [
  ['full', 'Full'],
  ['half', 'Half'],
  ['quarter', 'Quarter'],
] as const satisfies readonly (readonly [PlaybackScale, string])[];

export function ScaleChoice({ value, onChange }: Pick<ChoiceProps<PlaybackScale>, 'value' | 'onChange'>) {
  return <Choice label="Playback scale" value={value} onChange={onChange} options={scaleOptions} />;
}

type Simple<Value extends string> = Pick<ChoiceProps<Value>, 'value' | 'onChange'>;

/** Whether files are kept out of the system's memory before a run. */
export const cacheOptions = [
  ['cold', 'Cold'],
  ['warm', 'Warm, on purpose'],
] as const;

/** Which form of the footage a run reads. */
export const readsOptions = [
  ['originals', 'Originals'],
  ['proxies', 'Proxies'],
] as const;

/** In how many bits a channel pictures are worked on. */
export const depthOptions = [
  ['kept', 'Depth of the source'],
  ['8-bit', '8 bits'],
] as const satisfies readonly (readonly [WorkingDepth, string])[];
export function DepthChoice({ value, onChange }: Simple<WorkingDepth>) {
  return <Choice label="Processed in" value={value} onChange={onChange} options={depthOptions} />;
}

export const fieldsLabel = 'Fields, where interlaced';
const fieldsOptions = [
  ['woven', 'Both in one picture'],
  ['deinterlaced', 'Deinterlaced'],
] as const satisfies readonly (readonly [FieldsWay, string])[];

/** What becomes of interlaced pictures. */
export function FieldsChoice({ value, onChange }: Simple<FieldsWay>) {
  return <Choice label={fieldsLabel} value={value} onChange={onChange} options={fieldsOptions} />;
}

/** The same of a clip that is interlaced: it can have a slot for every field. */
export const clipFieldsOptions = [...fieldsOptions, ['each', 'One slot a field']] as const;

/** What becomes of frames that are late. */
export const policyOptions = [
  ['hold-time', 'Hold time: drop them'],
  ['every-frame', 'Show every frame'],
] as const satisfies readonly (readonly [Policy, string])[];

/** Whether sound is read, decoded and mixed beside the pictures. */
export const soundOptions = [
  ['on', 'Played'],
  ['off', 'Off'],
] as const satisfies readonly (readonly [Sound, string])[];

/** What is done beside a playback. */
export const meanwhileOptions = [
  ['nothing', 'Nothing'],
  ['previews', 'Thumbnails and sound peaks are drawn'],
] as const satisfies readonly (readonly [Meanwhile, string])[];

/** Whether parts that were rendered ahead are shown from there. */
export const prerenderedOptions = [
  ['anew', 'Rendered live'],
  ['use', 'From pre-rendered'],
] as const;

/** What kind of storage a volume is. */
export const volumeKindOptions = [
  ['internal', 'Internal'],
  ['external', 'External'],
  ['network', 'Network'],
  ['card', 'Card'],
] as const satisfies readonly (readonly [VolumeKind, string])[];

/** Grades that can be required: all but stalled. */
export const requiredGradeOptions = grades.slice(0, 3).map((grade) => [grade, grade] as const);
