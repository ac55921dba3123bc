'use client';
import { megabytesPerSecond } from '@/core/format';
import type { ArrayLevel } from '@/core/storage/array';
import { arrayLevels } from '@/core/storage/array';
import { expectedRate, type ScriptedFault, type StorageModel } from '@/core/storage/model';
import { drivePresets, linkPresets } from '@/core/storage/presets';
import { standInModel, standInProblem } from '@/core/storage/standInChoice';
import { useWatch } from 'react-hook-form';
import { Folded, FormNumberField, FormSelect } from '../form/Form';
import { figure, figureOrNull } from '../parts/Field';

/** A stand-in as it is typed: figures are text until they are sent. */
export interface StandInForm {
  readonly link: string;
  readonly drive: string;
  readonly level: string;
  readonly drives: string;
  readonly cacheGigabytes: string;
  readonly roundTripMs: string;
  readonly depth: string;
  readonly jitterMs: string;
  readonly othersMegabytesPerSecond: string;
  readonly seed: string;
  readonly fault: ScriptedFault['kind'] | 'none';
  readonly faultAt: string;
  readonly faultFigure: string;
}

export const emptyStandIn: StandInForm = {
  link: 'ethernet-10',
  drive: 'disk',
  level: '6',
  drives: '8',
  cacheGigabytes: '0',
  roundTripMs: '',
  depth: '',
  jitterMs: '0',
  othersMegabytesPerSecond: '0',
  seed: '1',
  fault: 'none',
  faultAt: '5',
  faultFigure: '2',
};

const faultNames: readonly (readonly [StandInForm['fault'], string, string | null])[] = [
  ['none', 'None', null],
  ['drop-out', 'Drop-out', 's long'],
  ['slow-drive', 'One slow drive', '% of its rate'],
  ['lower-link', 'Link renegotiated lower', 'Gb/s'],
  ['read-error', 'Read errors', null],
  ['full', 'Full', 'MB written'],
  ['read-only', 'Read-only', null],
];

function faultOf({ fault, faultAt, faultFigure }: StandInForm): ScriptedFault | null {
  const atSeconds = Number(faultAt);
  const figure = Number(faultFigure);
  switch (fault) {
    case 'none':
      return null;
    case 'drop-out':
      return { kind: fault, atSeconds, seconds: figure };
    case 'slow-drive':
      return { kind: fault, atSeconds, share: figure / 100 };
    case 'lower-link':
      return { kind: fault, atSeconds, lineBitsPerSecond: figure * 1e9 };
    case 'read-error':
      return { kind: fault, atSeconds };
    case 'full':
      return { kind: fault, afterBytes: figure * 1e6 };
    case 'read-only':
      return { kind: fault };
  }
}

/** What is sent of a form. */
export function sentStandIn(form: StandInForm) {
  const { link, drive, level, fault } = standInChoice(form);
  return {
    link,
    drive,
    level,
    fault,
    drives: figure(form.drives),
    cacheGigabytes: figure(form.cacheGigabytes),
    roundTripMs: figureOrNull(form.roundTripMs),
    depth: figureOrNull(form.depth),
    jitterMs: figure(form.jitterMs),
    othersMegabytesPerSecond: figure(form.othersMegabytesPerSecond),
    seed: figure(form.seed),
  };
}

/** A form as a choice, for its arithmetic; figures that are no numbers are NaN. */
function standInChoice(form: StandInForm) {
  const orNull = (text: string) => (text.trim() === '' ? null : Number(text));
  return {
    link: form.link,
    drive: form.drive,
    level: Number(form.level) as ArrayLevel,
    drives: Number(form.drives),
    cacheGigabytes: Number(form.cacheGigabytes),
    roundTripMs: orNull(form.roundTripMs),
    depth: orNull(form.depth),
    jitterMs: Number(form.jitterMs),
    othersMegabytesPerSecond: Number(form.othersMegabytesPerSecond),
    fault: faultOf(form),
    seed: Number(form.seed),
  };
}

/** The form of a model, as near as presets name it. */
export function standInForm({
  link,
  drive,
  level,
  drives,
  cache,
  jitterUs,
  othersBytesPerSecond,
  seed,
  fault,
}: StorageModel): StandInForm {
  const keyOf = (presets: Readonly<Record<string, { readonly label: string }>>, label: string) =>
    Object.entries(presets).find(([, preset]) => preset.label === label)?.[0] ?? '';
  const figure = {
    'drop-out': () => (fault?.kind === 'drop-out' ? fault.seconds : 2),
    'slow-drive': () => (fault?.kind === 'slow-drive' ? fault.share * 100 : 20),
    'lower-link': () => (fault?.kind === 'lower-link' ? fault.lineBitsPerSecond / 1e9 : 1),
    full: () => (fault?.kind === 'full' ? fault.afterBytes / 1e6 : 100),
    'read-error': () => 2,
    'read-only': () => 2,
    none: () => 2,
  };
  return {
    link: keyOf(linkPresets, link.label),
    drive: keyOf(drivePresets, drive.label),
    level: String(level),
    drives: String(drives),
    cacheGigabytes: String(cache.bytes / 1e9),
    roundTripMs: String(link.roundTripUs / 1000),
    depth: String(link.depth),
    jitterMs: String(jitterUs / 1000),
    othersMegabytesPerSecond: String(othersBytesPerSecond / 1e6),
    seed: String(seed),
    fault: fault?.kind ?? 'none',
    faultAt: String(fault && 'atSeconds' in fault ? fault.atSeconds : 5),
    faultFigure: String(figure[fault?.kind ?? 'none']()),
  };
}

/** Link, drives, cache and what disturbs them, with the rate they come to: the fields `standIn` of the form around. */
export function StandInFields() {
  const value = useWatch({ name: 'standIn' }) as StandInForm;
  const [, , faultUnit] = faultNames.find(([kind]) => kind === value.fault) ?? [null, null, null];
  return (
    <fieldset className="flex flex-col gap-3 border-l-2 border-edge pl-4">
      <legend className="sr-only">Model of the simulated volume</legend>
      <div className="flex flex-wrap items-start gap-4">
        <FormSelect
          name="standIn.link"
          label="Link"
          options={Object.entries(linkPresets).map(([key, { label }]) => [key, label])}
          className="w-72"
        />
        <FormSelect
          name="standIn.drive"
          label="Drives of this kind"
          options={Object.entries(drivePresets).map(([key, { label }]) => [key, label])}
          className="w-64"
        />
        <FormNumberField name="standIn.drives" label="How many" className="w-16" />
        <FormSelect
          name="standIn.level"
          label="Level"
          options={arrayLevels.map((level) => [String(level), String(level)])}
          className="w-20"
        />
        <FormNumberField name="standIn.cacheGigabytes" label="Server cache" unit="GB" />
      </div>
      <Folded
        summary="Round trip, other clients, scripted fault"
        names={[
          'standIn.roundTripMs',
          'standIn.depth',
          'standIn.jitterMs',
          'standIn.othersMegabytesPerSecond',
          'standIn.seed',
          'standIn.fault',
        ]}
      >
        <FormNumberField name="standIn.roundTripMs" label="Round trip" unit="ms" placeholder="link’s" />
        <FormNumberField
          name="standIn.depth"
          label="Requests under way"
          placeholder="link’s"
          className="w-36"
        />
        <FormNumberField name="standIn.jitterMs" label="Jitter, mean" unit="ms" />
        <FormNumberField
          name="standIn.othersMegabytesPerSecond"
          label="Others take"
          unit="MB/s"
          className="w-36"
        />
        <FormNumberField name="standIn.seed" label="Seed" className="w-20" />
        <FormSelect
          name="standIn.fault"
          label="Scripted fault"
          options={faultNames.map(([kind, name]) => [kind, name])}
          className="w-52"
        />
        {!['none', 'full', 'read-only'].includes(value.fault) && (
          <FormNumberField name="standIn.faultAt" label="After" unit="s" className="w-24" />
        )}
        {faultUnit && (
          <FormNumberField name="standIn.faultFigure" label="Figure" unit={faultUnit} className="w-40" />
        )}
      </Folded>
      <Comes form={value} />
    </fieldset>
  );
}

function Comes({ form }: { form: StandInForm }) {
  const choice = standInChoice(form);
  const problem = standInProblem(choice);
  if (problem) return <p className="text-sm text-signal-text">{problem.message}</p>;
  const model = standInModel(choice);
  const [read, write] = [expectedRate(model, false, 2 ** 20), expectedRate(model, true, 2 ** 20)];
  return (
    <p className="text-sm text-muted">
      By its arithmetic it reads {megabytesPerSecond(read.bytesPerSecond)} (limited by: {read.limit}) and
      writes {megabytesPerSecond(write.bytesPerSecond)} (limited by: {write.limit}), in blocks of 1 MiB.
    </p>
  );
}
