'use client';
import { useState, type ReactNode } from 'react';
import { arrayLevels, type ArrayLevel } from '@/core/storage/array';
import { drivePresets, linkPresets } from '@/core/storage/presets';
import type { StorePlan } from '@/core/storage/planner';
import { inputLook } from '../parts/Field';
import { Select } from '../parts/Select';

/** A row of the alternatives' table. */
export function PlanRow({ name, children }: { name: string; children: ReactNode }) {
  return (
    <tr className="border-b last:border-b-0">
      <th scope="row" className="px-3 py-1 text-left font-normal text-muted">
        {name}
      </th>
      {children}
    </tr>
  );
}

type Change = (index: number, part: Partial<StorePlan>) => void;
type NumberKey = { [Key in keyof StorePlan]: StorePlan[Key] extends number ? Key : never }[keyof StorePlan];

const numberRows: readonly (readonly [Exclude<NumberKey, 'level'>, string])[] = [
  ['drives', 'Drives'],
  ['driveTerabytes', 'Size of a drive, TB'],
  ['drivePrice', 'Price of a drive'],
  ['chassisPrice', 'Price of the rest'],
  ['mtu', 'Frame size, bytes'],
  ['clients', 'Clients'],
  ['uplinks', 'Links of the server'],
  ['cacheGigabytes', 'Server cache, GB'],
  ['streamsPerClient', 'Streams wanted for each client'],
];

/** What a row asks of each alternative. */
function InputRow({
  name,
  plans,
  input,
}: {
  name: string;
  plans: readonly StorePlan[];
  input: (plan: StorePlan, index: number) => ReactNode;
}) {
  return (
    <PlanRow name={name}>
      {plans.map((plan, index) => (
        <td key={index} className="px-3 py-1">
          {input(plan, index)}
        </td>
      ))}
    </PlanRow>
  );
}

/** What is asked of every alternative, to change it. */
export function PlanInputs({ plans, change }: { plans: readonly StorePlan[]; change: Change }) {
  return (
    <>
      <InputRow
        name="Level"
        plans={plans}
        input={(plan, index) => (
          <Select
            label={`Level of ${plan.name}`}
            value={String(plan.level)}
            options={arrayLevels.map((level) => [String(level), String(level)])}
            onChange={(level) => change(index, { level: Number(level) as ArrayLevel })}
          />
        )}
      />
      <InputRow
        name="Kind of drive"
        plans={plans}
        input={(plan, index) => (
          <Select
            label={`Drive of ${plan.name}`}
            value={plan.drive}
            options={Object.entries(drivePresets).map(([key, { label }]) => [key, label])}
            onChange={(drive) =>
              change(index, { drive, driveTerabytes: (drivePresets[drive]?.bytes ?? 0) / 1e12 })
            }
          />
        )}
      />
      <InputRow
        name="Link of each client"
        plans={plans}
        input={(plan, index) => (
          <Select
            label={`Link of ${plan.name}`}
            value={plan.link}
            options={clientLinks}
            onChange={(link) => change(index, { link })}
          />
        )}
      />
      {numberRows.map(([key, name]) => (
        <InputRow
          key={key}
          name={name}
          plans={plans}
          input={(plan, index) => (
            <NumberCell
              label={`${name} of ${plan.name}`}
              value={plan[key]}
              onChange={(value) => change(index, { [key]: value })}
            />
          )}
        />
      ))}
      <InputRow
        name="Margin, %"
        plans={plans}
        input={(plan, index) => (
          <NumberCell
            label={`Margin of ${plan.name}`}
            value={Math.round(plan.margin * 1e5) / 1e3}
            onChange={(value) => change(index, { margin: value / 100 })}
          />
        )}
      />
    </>
  );
}

const clientLinks = Object.entries(linkPresets)
  .filter(([key]) => !key.endsWith('-jumbo'))
  .map(([key, { label }]) => [key, label.replace(', normal frames', '')] as const);

/** A figure that may be unfinished while it is typed; it counts when it is a number. */
function NumberCell({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? String(value);
  const invalid = shown.trim() === '' || Number.isNaN(Number(shown));
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      value={shown}
      aria-invalid={invalid}
      onBlur={() => setText(null)}
      onChange={(event) => {
        setText(event.target.value);
        const next = Number(event.target.value);
        if (event.target.value.trim() !== '' && !Number.isNaN(next)) onChange(next);
      }}
      className={`${inputLook} figure`}
    />
  );
}
