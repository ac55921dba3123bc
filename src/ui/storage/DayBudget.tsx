'use client';
import { clockTime, megabytesPerSecond, quantity, times } from '@/core/format';
import { useState } from 'react';
import {
  dayParts,
  dayTime,
  savedBy,
  stageRate,
  type DayPart,
  type ShootingDay,
} from '@/core/storage/copyRates';
import { lineRate } from '@/core/storage/link';
import { linkPresets } from '@/core/storage/presets';
import { Choice } from '../parts/Choice';
import { Figure, FigureRow } from '../parts/Figure';
import { NumberField } from '../parts/Field';
import { ratesOf } from './measured';
import type { CopiesPage } from '../pages';
import { SelectField } from '../parts/Select';

const own = 'own';
const partWords: Record<DayPart, string> = {
  card: 'the cards',
  reader: 'the reader',
  machine: 'the machine',
  destination: 'the destination',
};
const readerPresets = Object.entries(linkPresets).filter(
  ([key]) => key.startsWith('card-') || key.startsWith('usb-'),
);

/** What the newest copies say of this machine: how fast it hashes. */
function hashRate({ copied }: CopiesPage): number | null {
  for (const { summary } of copied) {
    const rate = summary && stageRate(summary.work.hash);
    if (rate !== null) return rate;
  }
  return null;
}

/** The figures of a day as they are typed, and the day they make. */
function useDay(page: CopiesPage) {
  const machine = hashRate(page);
  const [form, setForm] = useState({
    cards: '6',
    gigabytes: '256',
    card: '280',
    reader: 'card-104',
    readerRate: '104',
    readers: '1',
    destination: own,
    destinationRate: '420',
    destinations: '2',
    machine: String(Math.round((machine ?? 1_500e6) / 1e6)),
  });
  const [verify, setVerify] = useState<'yes' | 'no'>('yes');
  const set = (key: keyof typeof form) => (text: string) =>
    setForm((current) => ({ ...current, [key]: text }));
  const chooseReader = (reader: string) =>
    setForm((current) => ({
      ...current,
      reader,
      readerRate: linkPresets[reader]
        ? String(Math.round(lineRate(linkPresets[reader]) / 1e6))
        : current.readerRate,
    }));
  const known = page.volumes
    .map((volume) => ({ volume, rates: ratesOf(volume, page.latest, 'sequential-write') }))
    .filter(({ rates }) => rates !== null);
  const chooseDestination = (destination: string) =>
    setForm((current) => {
      const found = known.find(({ volume }) => volume.id === destination);
      return {
        ...current,
        destination,
        destinationRate: found?.rates
          ? String(Math.round(found.rates.sustained / 1e6))
          : current.destinationRate,
      };
    });
  const day: ShootingDay = {
    cards: Number(form.cards),
    cardBytes: Number(form.gigabytes) * 1e9,
    card: Number(form.card) * 1e6,
    reader: Number(form.readerRate) * 1e6,
    readers: Number(form.readers),
    destination: Number(form.destinationRate) * 1e6,
    destinations: Number(form.destinations),
    machine: Number(form.machine) * 1e6,
    verify: verify === 'yes',
  };
  return { form, setForm, set, chooseReader, chooseDestination, known, machine, verify, setVerify, day };
}

/** Where the hours of a shooting day's copies go, and which purchase saves most of them. */
export function DayBudget({ page }: { page: CopiesPage }) {
  const asked = useDay(page);
  return (
    <section aria-label="Shooting day" className="flex flex-col gap-3 border bg-surface p-4">
      <h2>What a shooting day takes</h2>
      <DayFields {...asked} />
      {isWhole(asked.day) ? (
        <Budget day={asked.day} />
      ) : (
        <p className="text-sm text-signal-text">
          Give every figure as a number above 0; cards, readers and destinations whole.
        </p>
      )}
    </section>
  );
}

type Day = ReturnType<typeof useDay>;

function DayFields(day: Day) {
  const { form, set, machine, verify, setVerify } = day;
  return (
    <div className="flex flex-wrap items-end gap-4">
      <CardFields {...day} />
      <DestinationFields {...day} />
      <NumberField
        label={machine === null ? 'Machine hashes' : 'Machine hashes, measured'}
        value={form.machine}
        onChange={set('machine')}
        unit="MB/s"
        className="w-40"
      />
      <Choice
        label="Verify"
        value={verify}
        onChange={setVerify}
        options={[
          ['yes', 'Yes'],
          ['no', 'No'],
        ]}
      />
    </div>
  );
}

/** Cards, and what reads them. */
function CardFields({ form, setForm, set, chooseReader }: Day) {
  return (
    <>
      <NumberField label="Cards" value={form.cards} onChange={set('cards')} className="w-16" />
      <NumberField label="Each holds" value={form.gigabytes} onChange={set('gigabytes')} unit="GB" />
      <NumberField
        label="A card reads"
        value={form.card}
        onChange={set('card')}
        unit="MB/s"
        className="w-32"
      />
      <SelectField
        label="Reader and link"
        value={form.reader}
        onChange={chooseReader}
        options={[...readerPresets.map(([key, { label }]) => [key, label] as const), [own, 'Own figure']]}
        className="w-60"
      />
      <NumberField
        label="carries"
        value={form.readerRate}
        onChange={(rate) => setForm((current) => ({ ...current, readerRate: rate, reader: own }))}
        unit="MB/s"
        className="w-32"
      />
      <NumberField label="Readers" value={form.readers} onChange={set('readers')} className="w-16" />
    </>
  );
}

function DestinationFields({ form, setForm, set, chooseDestination, known }: Day) {
  return (
    <>
      <SelectField
        label="Destination"
        value={form.destination}
        onChange={chooseDestination}
        options={[
          [own, 'Own figure'],
          ...known.map(
            ({ volume, rates }) =>
              [
                volume.id,
                `${volume.name} (${rates?.from === 'measured' ? 'measured' : 'forecast'}${volume.standIn ? ', simulated' : ''})`,
              ] as const,
          ),
        ]}
        className="w-60"
      />
      <NumberField
        label="takes"
        value={form.destinationRate}
        onChange={(rate) => setForm((current) => ({ ...current, destinationRate: rate, destination: own }))}
        unit="MB/s"
        className="w-32"
      />
      <NumberField
        label="Destinations"
        value={form.destinations}
        onChange={set('destinations')}
        className="w-24"
      />
    </>
  );
}

function isWhole(day: ShootingDay): boolean {
  const numbers = [
    day.cards,
    day.cardBytes,
    day.card,
    day.reader,
    day.readers,
    day.destination,
    day.destinations,
    day.machine,
  ];
  return (
    numbers.every((value) => Number.isFinite(value) && value > 0) &&
    [day.cards, day.readers, day.destinations].every(Number.isInteger)
  );
}

function Budget({ day }: { day: ShootingDay }) {
  const time = dayTime(day);
  const savings = dayParts
    .map((part) => ({ part, seconds: savedBy(day, part, 2) }))
    .sort((a, b) => b.seconds - a.seconds);
  const [most] = savings;
  const clock = (seconds: number) => clockTime(seconds * 1000);
  return (
    <>
      <p data-testid="day" className="text-lg font-semibold">
        {clock(time.seconds)} for the day’s cards, limited by {partWords[time.limit]}.{' '}
        {most && most.seconds > 0
          ? `${most.part === 'card' ? 'Cards twice as fast save' : `A ${most.part} twice as fast saves`} ${clock(most.seconds)}.`
          : 'No part alone saves anything.'}
      </p>
      <svg
        role="img"
        aria-label={`Copying ${clock(time.copySeconds)}, verifying ${clock(time.verifySeconds)}`}
        width="100%"
        height="26"
      >
        <rect width={`${(100 * time.copySeconds) / time.seconds}%`} height="26" fill="var(--slot)" />
        <rect
          x={`${(100 * time.copySeconds) / time.seconds}%`}
          width={`${(100 * time.verifySeconds) / time.seconds}%`}
          height="26"
          fill="var(--raised)"
          stroke="var(--edge)"
        />
      </svg>
      <FigureRow>
        <Figure
          name="Copying (full bar)"
          note={`${megabytesPerSecond(Math.min(day.card, day.reader))} from each card`}
        >
          {clock(time.copySeconds)}
        </Figure>
        <Figure name="Verifying (outlined)">{clock(time.verifySeconds)}</Figure>
        {savings.map(({ part, seconds }) => (
          <Figure
            key={part}
            name={`${partWords[part]}, twice as fast`}
            note={`${times(time.seconds / (time.seconds - seconds))} as fast, ${quantity(Math.round((100 * seconds) / time.seconds), '%')} less time`}
          >
            {seconds > 0.5 ? `saves ${clock(seconds)}` : 'saves nothing'}
          </Figure>
        ))}
      </FigureRow>
      <table aria-label="Readers compared" className="w-full text-sm">
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            <th scope="col" className="py-1 font-normal">
              Compare another reader
            </th>
            <th scope="col" className="py-1 text-right font-normal">
              Day
            </th>
            <th scope="col" className="py-1 text-right font-normal">
              Limited by
            </th>
          </tr>
        </thead>
        <tbody>
          {readerPresets.map(([key, link]) => {
            const other = dayTime({ ...day, reader: lineRate(link) });
            return (
              <tr key={key} className="border-b last:border-b-0">
                <td className="py-0.5">{link.label}</td>
                <td className="figure py-0.5 text-right">{clock(other.seconds)}</td>
                <td className="py-0.5 text-right">{partWords[other.limit]}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
