'use client';
import { count, megabytesPerSecond, money, percent, quantity, size } from '@/core/format';
import { CopyPlus, Download, Redo2, Trash2, Undo2 } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { forecastStore, planProblem, type StoreForecast, type StorePlan } from '@/core/storage/planner';
import { Button } from '../parts/Button';
import { inputLook } from '../parts/Field';
import { csvOf } from '@/core/formats/csv';
import { saveFile } from '../table/export';
import { useUndo } from '../useUndo';
import type { CameraFormatRow } from '../pages';
import { Checkbox } from '../parts/Checkbox';
import { useCurrency } from '../shell/status';
import { PlanRow, PlanInputs } from './PlanInputs';

const storageKey = 'navvy-planner';
const mostAlternatives = 4;

const firstPlan: StorePlan = {
  name: 'Store A',
  level: 6,
  drives: 8,
  drive: 'disk',
  driveTerabytes: 18,
  drivePrice: 420,
  chassisPrice: 1_800,
  link: 'ethernet-10',
  mtu: 1_500,
  clients: 4,
  uplinks: 1,
  cacheGigabytes: 16,
  streamsPerClient: 2,
  margin: 0.25,
};

interface PlannerState {
  readonly plans: readonly StorePlan[];
  readonly formats: readonly string[];
}
const firstState: PlannerState = {
  plans: [
    firstPlan,
    {
      ...firstPlan,
      name: 'Store B',
      level: 5,
      drives: 6,
      drive: 'ssd',
      driveTerabytes: 4,
      drivePrice: 260,
      chassisPrice: 2_400,
      mtu: 9_000,
    },
  ],
  formats: [],
};

/** What was planned here before, or null. */
function remembered(): PlannerState | null {
  try {
    const state = JSON.parse(localStorage.getItem(storageKey) ?? 'null') as PlannerState | null;
    return state && state.plans.every((plan) => Object.keys(firstPlan).every((key) => key in plan))
      ? state
      : null;
  } catch {
    return null;
  }
}

/** What is planned, with undo; kept in this browser. */
function usePlanner(formats: readonly CameraFormatRow[]) {
  const initial = useMemo<PlannerState>(
    () => ({
      ...firstState,
      formats: formats.filter(({ name }) => name === 'UHD all-intra').map(({ id }) => id),
    }),
    [formats],
  );
  const { load, ...planner } = useUndo(initial, 'Planner');
  const [loaded, setLoaded] = useState(false);
  useEffect(() => {
    const before = remembered();
    if (before) load(before);
    setLoaded(true);
  }, [load]);
  const state = planner.value;
  useEffect(() => {
    if (loaded) localStorage.setItem(storageKey, JSON.stringify(state));
  }, [state, loaded]);
  return planner;
}

const changed = (state: PlannerState, index: number, part: Partial<StorePlan>): PlannerState => ({
  ...state,
  plans: state.plans.map((plan, at) => (at === index ? { ...plan, ...part } : plan)),
});

/** A calculator for stores: alternatives side by side, from drives, link and clients to streams, hours and cost. */
export function PlannerView({ formats }: { formats: readonly CameraFormatRow[] }) {
  const { value: state, set, undo, redo, canUndo, canRedo } = usePlanner(formats);
  const currency = useCurrency();
  const chosen = formats.filter(({ id }) => state.formats.includes(id));
  const forecasts = state.plans.map((plan) =>
    planProblem(plan) === null ? forecastStore(plan, chosen) : null,
  );
  const change = (index: number, part: Partial<StorePlan>) => set((current) => changed(current, index, part));
  return (
    <div className="flex max-w-6xl flex-col gap-4">
      <div className="flex items-center gap-2">
        <h1 className="mr-auto" data-testid="answer">
          {answer(state.plans, forecasts, currency)}
        </h1>
        <Button onClick={undo} disabled={!canUndo}>
          <Undo2 aria-hidden className="size-4" />
          Undo
        </Button>
        <Button onClick={redo} disabled={!canRedo}>
          <Redo2 aria-hidden className="size-4" />
          Redo
        </Button>
        <Button onClick={() => saveFile('navvy-planner.csv', plannerCsv(state.plans, forecasts, currency))}>
          <Download aria-hidden className="size-4" />
          CSV
        </Button>
      </div>
      <FormatPicker
        formats={formats}
        chosen={state.formats}
        onChange={(ids) => set((current) => ({ ...current, formats: ids }))}
      />
      <div className="overflow-x-auto border bg-surface">
        <table aria-label="Alternatives" className="w-full text-sm">
          <thead>
            <tr className="border-b">
              <th scope="col" className="w-56 px-3 py-2 text-left text-xs font-normal text-muted">
                Alternatives
              </th>
              {state.plans.map((plan, index) => (
                <PlanHead
                  key={index}
                  plan={plan}
                  number={index + 1}
                  rename={(name) => change(index, { name })}
                  duplicate={
                    state.plans.length < mostAlternatives
                      ? () =>
                          set((current) => ({
                            ...current,
                            plans: [...current.plans, { ...plan, name: `${plan.name}, other` }],
                          }))
                      : null
                  }
                  remove={
                    state.plans.length > 1
                      ? () =>
                          set((current) => ({
                            ...current,
                            plans: current.plans.filter((_, at) => at !== index),
                          }))
                      : null
                  }
                />
              ))}
            </tr>
          </thead>
          <tbody>
            <Results plans={state.plans} forecasts={forecasts} />
            <PlanInputs plans={state.plans} change={change} />
          </tbody>
        </table>
      </div>
      <Assumptions />
    </div>
  );
}

function Assumptions() {
  return (
    <p className="text-xs text-muted">
      A forecast from arithmetic, not a measurement: links and drives as their presets state them; each client
      has one link of its own, all share the drives and the uplinks evenly, and drives get to another place
      after each MiB where streams share them. Stand-ins are paced by the same model. Failure chances take 1.5
      % of drives to fail in a year, independently, and one unreadable bit in 10^15. It is kept in this
      browser.
    </p>
  );
}

/** The name of an alternative, and what can be done with it; null what cannot. */
function PlanHead({
  plan: { name },
  number,
  rename,
  duplicate,
  remove,
}: {
  plan: StorePlan;
  number: number;
  rename: (name: string) => void;
  duplicate: (() => void) | null;
  remove: (() => void) | null;
}) {
  return (
    <th scope="col" className="min-w-52 px-3 py-2 text-left font-normal">
      <span className="flex items-center gap-1">
        <input
          aria-label={`Name of alternative ${number}`}
          value={name}
          onChange={(event) => rename(event.target.value)}
          className={`${inputLook} font-semibold`}
        />
        <Button
          look="quiet"
          aria-label={`Duplicate ${name}`}
          disabled={duplicate === null}
          onClick={duplicate ?? undefined}
        >
          <CopyPlus aria-hidden className="size-4" />
        </Button>
        <Button
          look="quiet"
          aria-label={`Remove ${name}`}
          disabled={remove === null}
          onClick={remove ?? undefined}
        >
          <Trash2 aria-hidden className="size-4" />
        </Button>
      </span>
    </th>
  );
}

/** The alternative that carries what is wanted for the least per usable TB, in a sentence. */
function answer(
  plans: readonly StorePlan[],
  forecasts: readonly (StoreForecast | null)[],
  currency: string,
): string {
  const good = plans
    .map((plan, index) => ({ plan, forecast: forecasts[index] ?? null }))
    .filter((entry): entry is { plan: StorePlan; forecast: StoreForecast } => entry.forecast?.enough === true)
    .sort((a, b) => a.forecast.price - b.forecast.price);
  const [best] = good;
  if (!best)
    return plans.length === 1
      ? 'This store does not carry the streams that are wanted'
      : 'None of these stores carries the streams that are wanted';
  return `${best.plan.name} carries ${count(best.forecast.streamsPerClient)} streams for each of ${count(best.plan.clients)} clients (${count(best.plan.streamsPerClient)} wanted) for ${money(best.forecast.price, currency)}${good.length > 1 ? ', the least of those that do' : ''}`;
}

/** A small chance as one in so many, a large one in percent. */
function chanceText(chance: number): string {
  return chance >= 0.01
    ? percent(chance, 0)
    : chance < 1e-9
      ? 'below 1 in 10^9'
      : `1 in ${count(1 / chance)}`;
}

type ResultRow = readonly [
  name: string,
  (forecast: StoreForecast, plan: StorePlan, currency: string) => string,
];
const resultRows: readonly ResultRow[] = [
  ['Usable capacity', ({ usableBytes }) => size(usableBytes)],
  ['Read for each client', ({ readBytesPerSecond }) => megabytesPerSecond(readBytesPerSecond)],
  ['Write for each client', ({ writeBytesPerSecond }) => megabytesPerSecond(writeBytesPerSecond)],
  [
    'Read from the server’s cache',
    ({ cachedReadBytesPerSecond }) =>
      cachedReadBytesPerSecond > 0 ? megabytesPerSecond(cachedReadBytesPerSecond) : 'no cache',
  ],
  ['Reading is limited by', ({ limit }) => limit],
  [
    'Streams for each client',
    ({ streamsPerClient, enough }, plan) =>
      `${enough ? '■' : '□'} ${count(streamsPerClient)}, wanted ${plan.streamsPerClient}`,
  ],
  [
    'Hours of footage',
    ({ hours }) => (hours > 0 ? quantity(count(Math.floor(hours)), 'h') : 'choose a format'),
  ],
  ['Drives that may fail', ({ mayFail }) => String(mayFail)],
  [
    'Rebuild of one drive',
    ({ rebuild }) =>
      rebuild
        ? `${quantity(rebuild.hours, 'h', 1)}, ${rebuild.survives} more may fail`
        : 'none: a failure loses all',
  ],
  [
    'Chance to lose data in a rebuild',
    ({ rebuild }) =>
      rebuild ? chanceText(1 - (1 - rebuild.lossChance) * (1 - rebuild.unreadableChance)) : '–',
  ],
  ['Price', ({ price }, _, currency) => money(price, currency)],
  [
    'Price per usable TB',
    ({ pricePerUsableTerabyte }, _, currency) => money(pricePerUsableTerabyte, currency),
  ],
];

function Results({
  plans,
  forecasts,
}: {
  plans: readonly StorePlan[];
  forecasts: readonly (StoreForecast | null)[];
}) {
  const currency = useCurrency();
  return (
    <>
      {plans.some((plan) => planProblem(plan) !== null) && (
        <PlanRow name="Cannot be">
          {plans.map((plan, index) => (
            <td key={index} className="px-3 py-1 text-signal-text">
              {planProblem(plan)?.message}
            </td>
          ))}
        </PlanRow>
      )}
      {resultRows.map(([name, text]) => (
        <PlanRow key={name} name={name}>
          {plans.map((plan, index) => {
            const forecast = forecasts[index];
            return (
              <td key={index} className="figure px-3 py-1 text-[15px]">
                {forecast ? text(forecast, plan, currency) : '–'}
              </td>
            );
          })}
        </PlanRow>
      ))}
    </>
  );
}

function FormatPicker({
  formats,
  chosen,
  onChange,
}: {
  formats: readonly CameraFormatRow[];
  chosen: readonly string[];
  onChange: (ids: readonly string[]) => void;
}) {
  const names = formats.filter((format) => chosen.includes(format.id)).map(({ name }) => name);
  return (
    <details className="border bg-surface px-4 py-2">
      <summary className="text-sm">
        <span className="text-muted">Plays, in equal shares: </span>
        {names.length > 0 ? names.join(', ') : 'choose formats'}
      </summary>
      <ul className="mt-2 grid gap-x-6 gap-y-1 pb-2 sm:grid-cols-2 lg:grid-cols-3">
        {formats.map((format) => (
          <li key={format.id}>
            <label className="flex items-center gap-2 text-sm">
              <Checkbox
                checked={chosen.includes(format.id)}
                onChange={(on) =>
                  onChange(on ? [...chosen, format.id] : chosen.filter((other) => other !== format.id))
                }
              />
              {format.name}
            </label>
          </li>
        ))}
      </ul>
    </details>
  );
}

function plannerCsv(
  plans: readonly StorePlan[],
  forecasts: readonly (StoreForecast | null)[],
  currency: string,
): string {
  const inputs = (Object.keys(firstPlan) as (keyof StorePlan)[]).map((key) => [
    key,
    ...plans.map((plan) => String(plan[key])),
  ]);
  const results = resultRows.map(([name, text]) => [
    name,
    ...plans.map((plan, index) => {
      const forecast = forecasts[index];
      return forecast ? text(forecast, plan, currency) : '';
    }),
  ]);
  return csvOf([...inputs, ...results]);
}
