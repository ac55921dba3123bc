'use client';
import { count, dateTime, significant, times } from '@/core/format';
import { Download } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import {
  countedRepeats,
  leastThatMatters,
  notTold,
  type Against,
  type Metric,
  type Verdict,
} from '@/core/compare/compare';
import type { Comparison } from '@/server/decide/comparisons';
import { Button, LinkButton } from '../parts/Button';
import { figure as typed, NumberField } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { csvOf } from '@/core/formats/csv';
import { saveFile } from '../table/export';
import { LagOverlay } from './LagOverlay';
import { RepeatBars } from './RepeatBars';
import { RibbonStack } from './RibbonStack';
import { againstSentence, bothWays } from '@/core/sentences/compare';
import { SelectField } from '../parts/Select';

const signed = (value: number | undefined) =>
  value === undefined ? '–' : `${value > 0 ? '+' : value < 0 ? '−' : ''}${significant(Math.abs(value), 3)}`;
const figure = (value: number) => (Number.isNaN(value) ? '–' : significant(value, 3));

interface Asking {
  readonly sides: readonly string[];
  readonly asked: string | null;
  readonly test: string | null;
  readonly least: number;
}

/** An address of the same comparison with another base, question, test or least difference. */
function addressOf({ sides, asked, test, least }: Asking): string {
  const more = [
    asked === null ? '' : `&asked=${encodeURIComponent(asked)}`,
    test === null ? '' : `&test=${encodeURIComponent(test)}`,
    least === leastThatMatters ? '' : `&least=${significant(least * 100, 6)}`,
  ];
  return `/compare?sides=${sides.join(',')}${more.join('')}`;
}

/** What a side is chosen as a base by: its value of what is asked about, or itself where nothing is. */
const baseValue = ({ id, conditions }: Comparison['sides'][number], asked: string | null) =>
  asked === null ? id : (conditions[asked] ?? notTold);

function baseOptions(sides: Comparison['sides'], asked: string | null): (readonly [string, string])[] {
  return [
    ...new Map(
      sides.map((side) => [baseValue(side, asked), asked === null ? side.name : baseValue(side, asked)]),
    ),
  ];
}

/** Whether sides are held against several bases, each its own counterpart. */
const isPaired = ({ rows }: Comparison) =>
  new Set(rows[0]?.against.flatMap(({ base }) => base ?? [])).size > 1;

/** Sides beside each other: what differs, what came of it, how sure it is, and the pictures over each other. */
export function CompareView({
  comparison,
  tokens,
}: {
  comparison: Comparison;
  /** What was asked for, as in the address. */ tokens: readonly string[];
}) {
  const router = useRouter();
  const { sides, asked, rows, tests, test, least } = comparison;
  const [metricId, setMetricId] = useState(rows[0]?.metric.id ?? '');
  const row = rows.find(({ metric }) => metric.id === metricId) ?? rows[0];
  const base = sides[0];
  const open = (change: Partial<Asking>) =>
    router.push(addressOf({ sides: tokens, asked, test, least, ...change }));
  const made = comparison.differences.filter(({ comesWith }) => comesWith === null);
  if (!base || !row) return null;
  return (
    <div className="flex flex-col gap-5">
      <Answers comparison={comparison} metric={row.metric} onMetric={setMetricId} />
      <Differences comparison={comparison} />
      <div data-no-print className="flex flex-wrap items-end gap-4">
        {tests.length > 1 && (
          <SelectField
            label="Test"
            value={test}
            onChange={(name) => open({ asked: null, test: name })}
            options={tests.map((name) => [name, name] as const)}
            className="w-44"
          />
        )}
        <SelectField
          label="Compared by"
          value={row.metric.id}
          onChange={setMetricId}
          options={rows.map(({ metric }) => [metric.id, metric.name] as const)}
          className="w-80"
        />
        <SelectField
          label="Against"
          value={baseValue(base, asked)}
          onChange={(value) =>
            open({
              test: null,
              sides: [
                ...sides.filter((side) => baseValue(side, asked) === value),
                ...sides.filter((side) => baseValue(side, asked) !== value),
              ].map(({ id }) => id),
            })
          }
          options={baseOptions(sides, asked)}
          className="w-80"
        />
        <SelectField
          label="Asked about"
          value={asked ?? ''}
          onChange={(name) => open({ asked: name })}
          options={[
            ...new Set([...(asked === null ? [] : [asked]), ...made.map(({ condition }) => condition)]),
          ].map((name) => [name, name] as const)}
          className="w-56"
        />
        <LeastField least={least} onChange={(share) => open({ least: share })} />
        <LinkButton href="/compare">Change the selection</LinkButton>
        <Button look="quiet" onClick={() => saveFile('navvy-comparison.csv', repeatsCsv(comparison))}>
          <Download aria-hidden className="size-4" />
          Every repeat as CSV
        </Button>
      </div>
      <RepeatBars sides={sides} metric={row.metric} rows={row.against} />
      <FiguresTable comparison={comparison} />
      <RibbonStack sides={sides} />
      <LagOverlay sides={sides} />
      <Repeats comparison={comparison} metric={row.metric} />
    </div>
  );
}

/** The least difference that matters, taken over when it is left or Enter is pressed. */
function LeastField({ least, onChange }: { least: number; onChange: (share: number) => void }) {
  const [text, setText] = useState(significant(least * 100, 6));
  const percent = typed(text);
  const share = typeof percent === 'number' ? percent / 100 : Number.NaN;
  const isWrong = !(share >= 0 && share <= 1);
  const take = () => {
    if (!isWrong && share !== least) onChange(share);
  };
  return (
    <form
      className="flex"
      onSubmit={(event) => {
        event.preventDefault();
        take();
      }}
      onBlur={take}
    >
      <NumberField
        label="Smallest difference that matters"
        value={text}
        onChange={setText}
        invalid={isWrong}
        unit="%"
        className="w-36"
      />
    </form>
  );
}

/** The answer first: each side against the base in a sentence, the one that differs most as the heading. */
function Answers({
  comparison: { sides, rows, empty },
  metric,
  onMetric,
}: {
  comparison: Comparison;
  metric: Metric;
  onMetric: (id: string) => void;
}) {
  const row = rows.find((one) => one.metric.id === metric.id);
  const base = sides[0];
  const baseFigures = row?.against[0]?.figures;
  if (!row || !base || !baseFigures) return null;
  const sentenceOf = (side: Comparison['sides'][number], of: Against) => {
    const at = of.base ?? 0;
    return againstSentence(
      side.name,
      sides[at]?.name ?? '',
      metric,
      of,
      row.against[at]?.figures ?? baseFigures,
    );
  };
  const decided = ({ verdict }: Against) => (verdict === 'better' || verdict === 'worse' ? 0 : 1);
  const said = sides
    .flatMap((side, at) => {
      const of = row.against[at];
      return of && of.base !== null ? [{ side, of, text: sentenceOf(side, of) }] : [];
    })
    .sort((a, b) => decided(a.of) - decided(b.of));
  const [first, ...others] = said;
  const telling = said.some(({ of }) => decided(of) === 0)
    ? []
    : rows.filter(({ against }) => against.some((of) => decided(of) === 0));
  return (
    <section aria-label="Answer">
      <h1 data-testid="answer">
        {first
          ? first.text
          : `${base.name}: ${metric.name.toLowerCase()} ${figure(baseFigures.median)} ${metric.unit} over ${baseFigures.values.length} ${baseFigures.values.length === 1 ? 'repeat' : 'repeats'}. Add another side to compare it with.`}
      </h1>
      {others.length > 0 && (
        <ul className="mt-2 list-disc pl-5 text-muted">
          {others.map(({ side, text }) => (
            <li key={side.id}>{text}</li>
          ))}
        </ul>
      )}
      {telling.length > 0 && (
        <p data-no-print className="mt-2 flex flex-wrap items-baseline gap-x-4 text-sm">
          They do differ in{' '}
          {telling.map(({ metric: { id, name } }) => (
            <button
              key={id}
              type="button"
              onClick={() => onMetric(id)}
              className="underline decoration-edge underline-offset-4 hover:decoration-ink"
            >
              {name.toLowerCase()}
            </button>
          ))}
        </p>
      )}
      {empty.length > 0 && (
        <p className="mt-2 text-sm text-muted">Without a result yet, and left out: {empty.join(', ')}.</p>
      )}
    </section>
  );
}

/** Every condition in which the sides differ: those that were made and not asked about first, then what comes with others. */
function Differences({ comparison }: { comparison: Comparison }) {
  const { sides, differences, asked } = comparison;
  if (sides.length < 2) return null;
  const others = differences.filter((difference) => !difference.asked && difference.comesWith === null);
  const brought = differences.filter(({ comesWith }) => comesWith !== null);
  const lower = (text: string) => text.toLowerCase();
  return (
    <section aria-label="Differences" className={others.length > 0 ? 'border-l-4 border-signal pl-3' : ''}>
      <h2>
        {others.length > 0
          ? `Besides ${lower(asked ?? 'nothing')} they differ in ${others.length === 1 ? '1 more thing' : `${others.length} more things`}: ${others.map(({ condition }) => lower(condition)).join(', ')}`
          : asked !== null && differences.length > 0
            ? `They differ in ${lower(asked)} and in nothing else that was recorded`
            : 'They were made under the same conditions'}
      </h2>
      {others.length > 0 && (
        <p className="text-sm text-muted">
          {isPaired(comparison)
            ? `Only sides are compared that differ in ${lower(asked ?? 'nothing')} alone. Between groups, any of these could be the reason as well.`
            : 'Any of these could be the reason, as well as the condition asked about.'}
        </p>
      )}
      {differences.length > 0 && (
        <details className="mt-1" open={others.length > 0 && sides.length <= 4}>
          <summary className="w-fit text-sm text-muted hover:text-ink">
            Every difference
            {brought.length > 0
              ? `, with ${brought.map(({ condition }) => lower(condition)).join(', ')}, which ${brought.length === 1 ? 'comes' : 'come'} with others`
              : ''}
          </summary>
          <div className="mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="Differences, table">
            <table className="border-collapse border bg-surface text-sm">
              <thead>
                <tr className="border-b text-left text-xs text-muted">
                  <th scope="col" className="px-3 py-1 font-normal">
                    Condition
                  </th>
                  {sides.map(({ id, name }) => (
                    <th key={id} scope="col" className="max-w-56 truncate px-3 py-1 font-normal" title={name}>
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {[...others, ...differences.filter((difference) => difference.asked), ...brought].map(
                  (difference) => (
                    <tr key={difference.condition} className="border-b last:border-b-0">
                      <th scope="row" className="whitespace-nowrap px-3 py-1 text-left font-semibold">
                        {difference.condition}
                        {(difference.asked || difference.comesWith) && (
                          <span className="ml-2 text-xs font-normal text-muted">
                            {difference.asked
                              ? 'asked about'
                              : `comes with ${lower(difference.comesWith ?? '')}`}
                          </span>
                        )}
                      </th>
                      {difference.values.map((value, at) => (
                        <td key={sides[at]?.id} className="max-w-56 truncate px-3 py-1" title={value}>
                          {value}
                        </td>
                      ))}
                    </tr>
                  ),
                )}
              </tbody>
            </table>
          </div>
        </details>
      )}
    </section>
  );
}

const verdictWords: Readonly<Record<Verdict, string>> = {
  base: 'base',
  better: 'better',
  worse: 'worse',
  'no difference shown': 'no difference shown',
  'too small to matter': 'too small to matter',
  'may be chance': 'may be chance among so many',
  'too few repeats': 'too few repeats',
  'not comparable': '–',
};

/** All figures: medians with their range, and the ratio with its interval. */
function FiguresTable({ comparison }: { comparison: Comparison }) {
  const { sides, rows } = comparison;
  const paired = isPaired(comparison);
  return (
    <div className="overflow-x-auto border bg-surface" tabIndex={0} role="region" aria-label="Figures, table">
      <table aria-label="Figures" className="w-full border-collapse text-sm">
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            <th scope="col" className="px-3 py-1.5 font-normal">
              Figure
            </th>
            {sides.map(({ id, name, simulated }, at) => (
              <th key={id} scope="col" className="max-w-64 px-3 py-1.5 text-right align-top font-normal">
                <span className="text-ink">{name}</span> {simulated && <Simulated />}
                {paired && <span className="block">{baseOf(comparison, at)}</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ metric, against }) => (
            <tr key={metric.id} className="border-b align-top last:border-b-0">
              <th scope="row" className="px-3 py-1.5 text-left font-normal">
                {metric.name}
                <span className="block text-xs text-muted">
                  {metric.unit}, {metric.better} is better
                </span>
              </th>
              {against.map(({ figures, ratio, difference, verdict }, at) => (
                <td key={sides[at]?.id} className="figure whitespace-nowrap px-3 py-1.5 text-right">
                  {figures.values.length === 0 ? (
                    '–'
                  ) : (
                    <>
                      {figure(figures.median)}
                      <span className="block text-xs text-muted">
                        {figures.values.length > 1
                          ? `${figure(figures.low)} to ${figure(figures.high)}, `
                          : ''}
                        {figures.values.length} {figures.values.length === 1 ? 'run' : 'runs'}
                      </span>
                    </>
                  )}
                  {(ratio ?? difference) && (
                    <span className="block text-xs">
                      {ratio ? bothWays(ratio.value) : `${signed(difference?.value)} ${metric.unit}`}
                      <span className="block text-muted">
                        {ratio
                          ? `${times(ratio.low)} to ${times(ratio.high)}`
                          : `${signed(difference?.low)} to ${signed(difference?.high)}`}
                      </span>
                      <span
                        className={verdict === 'better' || verdict === 'worse' ? 'block' : 'block text-muted'}
                      >
                        {verdictWords[verdict]}
                      </span>
                    </span>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What a side is held against, in words. */
function baseOf({ sides, rows }: Comparison, at: number): string {
  const base = rows[0]?.against[at]?.base ?? null;
  return base === null ? 'base' : `against ${sides[base]?.name ?? ''}`;
}

/** Each repeat with what it gave and whether it counts. */
function Repeats({ comparison: { sides }, metric }: { comparison: Comparison; metric: Metric }) {
  const counted = new Set(
    sides.flatMap((side) => countedRepeats(side, metric.id).map(({ trialId }) => trialId)),
  );
  return (
    <details>
      <summary className="w-fit text-sm text-muted hover:text-ink">
        Each of {count(sides.reduce((sum, { repeats }) => sum + repeats.length, 0))} repeats
      </summary>
      {sides.map(({ id, name, repeats }) => (
        <section key={id} className="mt-3" aria-label={name}>
          <h2 className="text-sm">{name}</h2>
          <ul className="text-sm">
            {repeats.map(({ trialId, href, at, values, excluded, doubt }) => (
              <li key={trialId}>
                <Link prefetch={false} href={href} className="underline decoration-edge underline-offset-4">
                  {dateTime(at)}
                </Link>{' '}
                <span className="figure">
                  {values[metric.id] === undefined
                    ? '–'
                    : `${figure(values[metric.id] ?? Number.NaN)} ${metric.unit}`}
                </span>
                {excluded && <span className="text-signal-text"> does not count: {excluded}</span>}
                {doubt && (
                  <span className="text-signal-text">
                    {' '}
                    {doubt.word}
                    {!excluded && !counted.has(trialId) && ', left out beside enough others'}: {doubt.reason}
                  </span>
                )}
              </li>
            ))}
          </ul>
        </section>
      ))}
    </details>
  );
}

/** Every repeat and every figure of a comparison, one line a repeat. */
function repeatsCsv({ sides, rows }: Comparison): string {
  const head = [
    'side',
    'trial',
    'at',
    'counts',
    'in doubt',
    ...rows.map(({ metric }) => `${metric.name} (${metric.unit})`),
  ];
  const lines = sides.flatMap(({ name, repeats }) =>
    repeats.map(({ trialId, at, excluded, doubt, values }) => [
      name,
      trialId,
      at,
      excluded === null ? 'yes' : `no: ${excluded}`,
      doubt ? `${doubt.word}: ${doubt.reason}` : '',
      ...rows.map(({ metric }) => values[metric.id]),
    ]),
  );
  return csvOf([head, ...lines]);
}
