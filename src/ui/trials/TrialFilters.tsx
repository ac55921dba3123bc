'use client';
import { clsx } from 'clsx';
import { kindNames, trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { grades } from '@/core/playback/grade';
import { plainName } from '@/core/simulated';
import type { ListPart, ListQuery } from '@/server/trials/trialList';
import { Button } from '../parts/Button';
import { Select } from '../parts/Select';
import { SearchField } from '../table/SearchField';

/** Ends without a result, as one choice. */
const withoutResult = 'failed,crashed,hung,interrupted,cancelled';

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
      <SearchField
        label={`Filter ${label}`}
        placeholder="Name of clip or timeline"
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
          ['done', 'Completed'],
          [withoutResult, 'Not completed'],
        ]}
      />
      <Narrow
        label="Conditions"
        value={asked.doubt ?? ''}
        onChange={(doubt) => onNarrow({ doubt })}
        options={[
          ['', 'Disturbed or quiet'],
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
    <Select
      label={label}
      value={value}
      onChange={onChange}
      options={options}
      low
      className={clsx('max-w-48', value === '' && 'text-muted')}
    />
  );
}
