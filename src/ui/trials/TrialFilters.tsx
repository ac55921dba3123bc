'use client';
import { useEffect, useEffectEvent, useState } from 'react';
import { kindNames, trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { grades } from '@/core/playback/grade';
import { plainName } from '@/core/simulated';
import type { ListPart, ListQuery } from '@/server/trialList';
import { Button } from '../parts/Button';

const look = 'h-8 border border-edge bg-ground px-2 text-sm';
/** Ends without a result, as one choice. */
const withoutResult = 'failed,crashed,hung,interrupted,cancelled';
/** Time after the last key before the list is asked for, ms. */
const pause = 250;

interface FiltersProps {
  readonly label: string;
  readonly part: ListPart;
  readonly asked: ListQuery;
  readonly onNarrow: (change: ListQuery) => void;
  readonly onClear: () => void;
}

/** Ways to narrow a list of trials down; those that it is always narrowed by are not offered. */
export function TrialFilters({ label, part: { fixed, choices }, asked, onNarrow, onClear }: FiltersProps) {
  const kinds = fixed.kind ? (fixed.kind.split(',') as TrialKind[]) : trialKinds;
  const hasOwnRig = fixed.rig !== undefined || fixed.volume !== undefined || choices.rigs.length < 2;
  const narrowed = Object.entries(asked).some(([name, value]) => name !== 'page' && value);
  return (
    <>
      <SubjectFilter
        label={label}
        value={asked.subject ?? ''}
        onChange={(subject) => onNarrow({ subject })}
      />
      {kinds.length > 1 && (
        <Narrow
          label="Kind"
          value={asked.kind ?? ''}
          onChange={(kind) => onNarrow({ kind })}
          options={[['', 'Every kind'], ...kinds.map((kind) => [kind, kindNames[kind]] as const)]}
        />
      )}
      {fixed.volume === undefined && fixed.clip === undefined && (
        <Narrow
          label="Volume"
          value={asked.volume ?? ''}
          onChange={(volume) => onNarrow({ volume })}
          options={[
            ['', 'Every volume'],
            ...choices.volumes.map(({ id, name, simulated }) => [id, plainName(name, simulated)] as const),
          ]}
        />
      )}
      {!hasOwnRig && (
        <Narrow
          label="Rig"
          value={asked.rig ?? ''}
          onChange={(rig) => onNarrow({ rig })}
          options={[['', 'Every rig'], ...choices.rigs.map(({ id, name }) => [id, name] as const)]}
        />
      )}
      <Narrow
        label="Result"
        value={asked.grade || asked.status || ''}
        onChange={(value) =>
          onNarrow({
            grade: grades.find((grade) => grade === value) ?? '',
            status: value === withoutResult || value === 'done' ? value : '',
          })
        }
        options={[
          ['', 'Any result'],
          ...(kinds.includes('playback') ? grades.map((grade) => [grade, `Grade ${grade}`] as const) : []),
          ['done', 'Came to its end'],
          [withoutResult, 'Did not come to its end'],
        ]}
      />
      <Narrow
        label="Conditions"
        value={asked.doubt ?? ''}
        onChange={(doubt) => onNarrow({ doubt })}
        options={[
          ['', 'Disturbed or not'],
          ['no', 'Quiet and steady'],
          ['yes', 'Disturbed or unsteady'],
        ]}
      />
      {narrowed && (
        <Button look="quiet" className="h-8" onClick={onClear}>
          Clear
        </Button>
      )}
    </>
  );
}

function Narrow({
  label,
  value,
  onChange,
  options,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  options: readonly (readonly [string, string])[];
}) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      className={`${look} max-w-48 ${value === '' ? 'text-muted' : 'border-ink'}`}
    >
      {options.map(([option, name]) => (
        <option key={option} value={option}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** Part of a name; the list is asked for when the typing rests. */
function SubjectFilter({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
}) {
  const [typed, setTyped] = useState(value);
  const [known, setKnown] = useState(value);
  if (value !== known) {
    setKnown(value);
    setTyped(value);
  }
  const tell = useEffectEvent(onChange);
  useEffect(() => {
    if (typed.trim() === value) return undefined;
    const timer = setTimeout(() => tell(typed.trim()), pause);
    return () => clearTimeout(timer);
  }, [typed, value]);
  return (
    <input
      type="search"
      aria-label={`Filter ${label}`}
      placeholder="Name of clip or timeline"
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      className={`${look} w-52 placeholder:text-muted`}
    />
  );
}
