import { dateTime } from '@/core/format';
import {
  basesOf,
  compareAll,
  differences,
  leastThatMatters,
  type Difference,
  type MetricRow,
  type Side,
} from '@/core/compare/compare';
import { groupBy } from '@/core/groups';
import { metricsOf, type TrialKind } from '@/core/kinds/kinds';
import { plainName, saysSimulated } from '@/core/simulated';
import { endedSteps, getPlan, listPlanCells } from '@/db/queries/plans';
import { getAnnotations, getResults, presentResults } from '@/db/queries/results';
import { listRigs } from '@/db/queries/rigs';
import { pulseConditions } from '@/core/rig/pulse';
import { conditionOrder, conditionsOf } from '../trials/conditionWords';
import { RequestError } from '../platform/errors';
import { repeatOf } from '../trials/findings';

/** Most sides that one comparison lays beside each other. */
const mostSides = 16;

/** A side as it is named in an address: a trial, a cell of a plan. */
interface SideRef {
  readonly id: string;
  readonly name: string | null;
  readonly form: string | null;
  /** What original and proxy are forms of; null where that is not known. */
  readonly footage: string | null;
  /** The series or matrix that it is of, and which of its conditions, the same in another run of the same. */
  readonly plan: { readonly name: string; readonly address: string } | null;
  readonly trialIds: readonly string[];
}

/** What the page of a comparison shows. */
export interface Comparison {
  readonly sides: readonly (Side & { readonly kind: TrialKind })[];
  readonly differences: readonly Difference[];
  readonly asked: string | null;
  /** Tests among the sides that were asked for; one of them is shown. */
  readonly tests: readonly string[];
  readonly test: string;
  readonly rows: readonly MetricRow[];
  /** The least difference that matters, as a share. */
  readonly least: number;
  /** Names of sides that were asked for and hold no result. */
  readonly empty: readonly string[];
}

/**
 * Sides by their tokens: `t.<trial>`, `p.<plan>.<cell>`, `p.<plan>` for all its cells; in the order of the tokens.
 * @throws RequestError for a token that names nothing
 */
async function sidesOf(tokens: readonly string[]): Promise<SideRef[]> {
  const parts = tokens.map((token) => {
    const [what = '', id = '', cell] = token.split('.');
    return { token, what, id, cell: cell === undefined ? null : Number(cell) };
  });
  const wrong = parts.find(({ what }) => what !== 't' && what !== 'p');
  if (wrong) throw new RequestError('no-such-side', { token: wrong.token });
  // Many cells of one plan are asked for together.
  const planIds = [...new Set(parts.filter(({ what }) => what === 'p').map(({ id }) => id))];
  const ofPlans = new Map(
    await Promise.all(
      planIds.map(
        async (id) =>
          [
            id,
            await cellsOf(
              id,
              parts.filter((part) => part.id === id).map(({ cell }) => cell),
            ),
          ] as const,
      ),
    ),
  );
  const present = await presentResults(parts.filter(({ what }) => what === 't').map(({ id }) => id));
  const sides = parts.map(({ token, what, id, cell }): SideRef[] => {
    if (what === 'p') return (ofPlans.get(id) ?? []).filter((side) => cell === null || side.cell === cell);
    if (!present.has(id)) throw new RequestError('compared-trial-gone', { id });
    return [{ id: token, name: null, form: null, footage: null, plan: null, trialIds: [id] }];
  });
  return sides.flat();
}

async function cellsOf(
  planId: string,
  wanted: readonly (number | null)[],
): Promise<(SideRef & { readonly cell: number })[]> {
  const plan = await getPlan(planId);
  if (!plan) throw new RequestError('compared-plan-gone', { planId });
  const some = wanted.flatMap((cell) => cell ?? []);
  const [cells, steps] = await Promise.all([
    listPlanCells(planId),
    endedSteps(planId, some.length < wanted.length ? null : some),
  ]);
  const trials = groupBy(steps, ({ cell }) => cell);
  const footage = footageNames(cells);
  return cells
    .filter(({ cell }) => some.length < wanted.length || some.includes(cell))
    .map(({ cell, labels, address }) => ({
      cell,
      id: `p.${planId}.${cell}`,
      name: plan.name,
      form: labels.form,
      footage: address.subject && (footage.get(address.subject.id) ?? null),
      plan: {
        name: `${plan.name} of ${dateTime(plan.createdAt)}`,
        address: JSON.stringify(address),
      },
      trialIds: (trials.get(cell) ?? []).map(({ trialId }) => trialId),
    }));
}

/** Names of what cells play, whatever their form, by the clip or timeline that was chosen: its original's name, with a part of its id where another bears the same. */
function footageNames(cells: Awaited<ReturnType<typeof listPlanCells>>): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  for (const {
    address: { subject },
    labels,
  } of cells)
    if (subject && (labels.form === 'originals' || !names.has(subject.id)))
      names.set(subject.id, labels.what);
  const borne = [...names.values()];
  return new Map(
    [...names].map(([id, name]) => [
      id,
      borne.filter((other) => other === name).length > 1 ? `${name} (${id.slice(-4)})` : name,
    ]),
  );
}

type FoundSide = Comparison['sides'][number];

/** What is known of the trials of sides, read at once. */
async function factsOf(refs: readonly SideRef[]) {
  const all = refs.flatMap(({ trialIds }) => trialIds);
  const [rows, notes, rigs] = await Promise.all([getResults(all), getAnnotations(all), listRigs()]);
  return {
    results: new Map(rows.map((row) => [row.found.id, row])),
    notes,
    rigNames: new Map(
      rigs.map(({ id, name, imported }) => [id, plainName(name, imported?.simulated ?? false)]),
    ),
    // Another form is another file: only its footage tells whether it is the same shot.
    manyForms: new Set(refs.map(({ form }) => form)).size > 1,
    // The same conditions measured in two matrices: before and after a change.
    again: [
      ...groupBy(
        refs.flatMap(({ plan }) => plan ?? []),
        ({ address }) => address,
      ).values(),
    ].some((plans) => plans.some(({ name }) => name !== plans[0]?.name)),
  };
}
type SideFacts = Awaited<ReturnType<typeof factsOf>>;

/** A side with its conditions and repeats, without a name; null where it holds no result. */
function sideOf(ref: SideRef, { results, notes, rigNames, manyForms, again }: SideFacts): FoundSide | null {
  const own = ref.trialIds.flatMap((id) => results.get(id) ?? []);
  const conditions = own.map((row) => ({
    ...conditionsOf(row.under, rigNames.get(row.found.rigId) ?? 'unknown rig'),
    ...(ref.form === null ? {} : { Form: ref.form }),
  }));
  const [first] = own;
  if (!first || !conditions[0]) return null;
  return {
    id: ref.id,
    kind: first.found.kind,
    name: '',
    simulated: isSimulated(conditions[0]),
    conditions: {
      ...joined(conditions),
      ...(manyForms && ref.footage !== null ? { Footage: ref.footage } : {}),
      ...(again && ref.plan ? { 'Measured in': ref.plan.name } : {}),
    },
    repeats: own.map((row) => repeatOf(row.found, notes.get(row.found.id))),
  };
}

/** Sides with the machine's pulse among their conditions, where it tells them apart. */
function withPulses(sides: readonly FoundSide[], { results }: SideFacts): FoundSide[] {
  const pulses = pulseConditions(
    sides.map(({ repeats }) =>
      repeats.flatMap(({ trialId, excluded }) =>
        excluded === null ? (results.get(trialId)?.found.load?.pulse?.medianUs ?? []) : [],
      ),
    ),
  );
  return sides.map((side, at) => ({
    ...side,
    conditions: { ...side.conditions, ...(pulses[at] == null ? {} : { 'Machine pulse': pulses[at] }) },
  }));
}

/** The condition that a comparison is likeliest about: the first in order of those that differ. */
function likeliestOf(sides: readonly FoundSide[]): string | null {
  const made = differences(sides, null).filter(({ comesWith }) => comesWith === null);
  return (
    conditionOrder.find((name) => made.some(({ condition }) => condition === name)) ??
    made[0]?.condition ??
    null
  );
}

/**
 * Lays sides beside each other: what differs besides what is asked about, every repeat, and each side against its base.
 * @param asked the condition that the comparison is about; null takes the likeliest of those that differ
 * @param test which of their tests is compared, where sides are of several; null takes the first
 * @param least difference that matters, as a share
 * @throws RequestError when nothing can be compared
 */
export async function compareSides(
  tokens: readonly string[],
  asked: string | null,
  test: string | null = null,
  least = leastThatMatters,
): Promise<Comparison> {
  const refs = await sidesOf(tokens);
  const facts = await factsOf(refs);
  const everySide = refs.map((ref) => sideOf(ref, facts));
  const told = withPulses(
    everySide.flatMap((side) => side ?? []),
    facts,
  );
  const tests = [...new Set(told.map(({ conditions }) => conditions.Test ?? ''))];
  const shown = test !== null && tests.includes(test) ? test : (tests[0] ?? '');
  const sides = told.filter(({ conditions }) => conditions.Test === shown);
  if (sides.length > mostSides)
    throw new RequestError('too-many-sides', { sides: sides.length, most: mostSides });
  const chosen = asked ?? likeliestOf(sides);
  const found = differences(sides, chosen);
  const telling = found.filter(({ comesWith }) => comesWith === null);
  const named = apart(sides.map((side) => ({ ...side, name: nameOfSide(side, telling, chosen) })));
  return {
    sides: named,
    differences: found,
    asked: chosen,
    tests,
    test: shown,
    rows: compareAll(named, metricsOf(named), basesOf(named, found), least),
    least,
    empty: refs.flatMap((ref, at) => (everySide[at] ? [] : [ref.name ?? ref.id])),
  };
}

/** Sides that nothing tells apart, such as the same matrix before and after a change, are told apart by when they ran. */
function apart<Named extends Side>(sides: readonly Named[]): Named[] {
  const names = sides.map(({ name }) => name);
  return sides.map((side, at) =>
    names.indexOf(side.name) === at && names.lastIndexOf(side.name) === at
      ? side
      : { ...side, name: `${side.name}, ${dateTime(side.repeats[0]?.at ?? '')}` },
  );
}

function isSimulated(conditions: Readonly<Record<string, string>>): boolean {
  return ['Volume', 'Rig', 'Device'].some((name) => saysSimulated(conditions[name] ?? ''));
}

/** Conditions of all repeats of a side; where they are not equal among themselves both stand there. */
function joined(conditions: readonly Readonly<Record<string, string>>[]): Record<string, string> {
  const names = [...new Set(conditions.flatMap((one) => Object.keys(one)))];
  return Object.fromEntries(
    names.map((name) => [name, [...new Set(conditions.flatMap((one) => one[name] ?? []))].join(' / ')]),
  );
}

/** What tells a side from the others: what is asked about, then the other great differences. */
function nameOfSide(
  { conditions }: Pick<Side, 'conditions'>,
  found: readonly Difference[],
  asked: string | null,
): string {
  const telling = [
    ...(asked === null ? [] : [asked]),
    ...conditionOrder.filter((name) => name !== asked && name !== 'Format'),
  ].filter((name) => found.some(({ condition }) => condition === name));
  return (
    telling
      .map((name) => conditions[name] ?? '')
      .filter(Boolean)
      .join(', ') ||
    conditions.Content ||
    conditions.Volume ||
    'side'
  );
}
