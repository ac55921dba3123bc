'use client';
import { clockTime, dateTime, fixed, memory, percent, quantity } from '@/core/format';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { rigInput } from '@/core/asked/library';
import { apiErrorOf, callApi } from '../api';
import { Form, FormProblems, FormTextField } from '../form/Form';
import { useRequestForm } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { DoubtNote } from '../parts/DoubtNote';
import { FormError } from '../parts/Field';
import { Facts } from '../parts/Figure';
import { Select, type Option } from '../parts/Select';
import { useStatus } from '../shell/status';
import { useLive } from '../shell/useLive';
import { useSend } from '../useSend';
import { Exchange } from './Exchange';
import { SelfCheckReport } from '../trial/SelfCheckReport';
import type { RigPage, RigRow, TrialListRow } from '../pages';

/** What this machine is, what it is doing, and whether its measurements can be trusted. */
export function RigView({ initial }: { initial: RigPage }) {
  const [{ rig, state, selfCheck, others }, reload] = useLive(
    initial,
    'GET /api/rig',
    (event) => event.type === 'trial-status' || event.type === 'devices',
  );
  if (!rig)
    return (
      <Empty title="This rig is being read">
        The runner reads what this machine is when it starts. Reload the page in a moment.
      </Empty>
    );
  return (
    <div className="flex max-w-5xl flex-col gap-6">
      <RigName rig={rig} reload={reload} />
      <SelfCheckSection selfCheck={selfCheck} reload={reload} />
      <div className="grid gap-8 lg:grid-cols-2">
        <Identity rig={rig} />
        <CurrentState state={state} />
      </div>
      <Exchange others={others} reload={reload} />
    </div>
  );
}

function Identity({ rig: { identity, bestPulse } }: { rig: RigRow }) {
  return (
    <section>
      <h2 className="mb-2">What it is</h2>
      <Facts
        rows={[
          ['Processor', identity.processor],
          [
            'Cores',
            identity.physicalCores === identity.logicalCores
              ? String(identity.logicalCores)
              : `${identity.physicalCores}, ${identity.logicalCores} threads`,
          ],
          ['Memory', memory(identity.memoryBytes)],
          [
            'Graphics',
            identity.graphics.join(', ') || 'none found: decoding and processing run on the processor',
          ],
          ['Disks', (identity.disks ?? []).join('; ') || 'not reported by the system'],
          ['Networks', (identity.networks ?? []).join('; ') || 'not reported by the system'],
          ['System', `${identity.system}, kernel ${identity.kernel}`],
          ['Machine', identity.machine],
          [
            'Best pulse',
            bestPulse
              ? `${quantity(bestPulse.us / 1000, 'ms', 3)} for the same small piece of work, in the self-check of ${dateTime(bestPulse.at)}`
              : 'not taken yet: the self-check takes it',
          ],
          ['Host name', identity.host],
        ]}
      />
    </section>
  );
}

function CurrentState({ state }: Pick<RigPage, 'state'>) {
  return (
    <section>
      <h2 className="mb-2">Current state</h2>
      <Facts
        rows={[
          ['Power', state.power === 'unknown' ? 'not reported by the system' : state.power],
          ['Processor governor', state.processorGovernor ?? 'not reported by the system'],
          ['Load average, 1 min', fixed(state.loadAverage, 2)],
          ['Free memory', memory(state.freeMemoryBytes)],
          [
            'Temperature',
            state.temperatureCelsius == null
              ? 'not reported by the system'
              : quantity(state.temperatureCelsius, '°C', 0),
          ],
          [
            'Clock',
            state.clockGigahertz == null
              ? 'not reported by the system'
              : quantity(state.clockGigahertz, 'GHz', 2),
          ],
          [
            'Busiest others',
            state.busiest.map(({ name, share }) => `${name} ${percent(share, 0)} of a core`).join(', ') ||
              'nothing above 1 %',
          ],
        ]}
      />
    </section>
  );
}

function RigName({ rig, reload }: { rig: RigRow; reload: () => Promise<void> }) {
  const [editing, setEditing] = useState(false);
  if (editing)
    return (
      <Rename
        name={rig.name}
        onDone={() => {
          setEditing(false);
          void reload();
        }}
      />
    );
  return (
    <div className="flex items-baseline gap-3">
      <h1>{rig.name}</h1>
      <span className="text-sm text-muted">the rig under test</span>
      <Button look="quiet" onClick={() => setEditing(true)}>
        Rename
      </Button>
      <Currency rig={rig} reload={reload} />
    </div>
  );
}

function Rename({ name, onDone }: { name: string; onDone: () => void }) {
  const renaming = useRequestForm('PATCH /api/rig', {
    schema: rigInput,
    defaults: { name },
    bodyOf: (typed) => typed,
  });
  return (
    <Form
      of={renaming}
      label="Rename the rig"
      className="flex items-start gap-2"
      onSubmit={async () => {
        if (await renaming.send()) onDone();
      }}
    >
      <FormTextField name="name" label="Name of the rig" focused onEscape={onDone} className="w-72" />
      <Button look="main" type="submit" disabled={renaming.busy} className="mt-5">
        Save
      </Button>
      <Button onClick={onDone} className="mt-5">
        Cancel
      </Button>
      <FormProblems />
    </Form>
  );
}

/** Codes of all currencies with their names. */
const currencies = (): readonly Option[] => {
  const names = new Intl.DisplayNames('en', { type: 'currency' });
  return Intl.supportedValuesOf('currency').map((code) => [code, `${code}, ${names.of(code) ?? code}`]);
};

/** What money is counted in, wherever a price stands. */
function Currency({ rig, reload }: { rig: RigRow; reload: () => Promise<void> }) {
  const options = useMemo(currencies, []);
  const { send, error } = useSend();
  return (
    <div className="ml-auto flex shrink-0 items-center gap-2 whitespace-nowrap text-sm text-muted">
      <FormError message={error?.message} />
      Prices in
      <Select
        label="Currency of prices"
        value={rig.currency}
        onChange={(currency) => {
          void send('PATCH /api/rig', { body: { name: rig.name, currency } }).then(reload);
        }}
        options={options}
        low
        className="w-52"
      />
    </div>
  );
}

function SelfCheckSection({
  selfCheck,
  reload,
}: {
  selfCheck: TrialListRow<'self-check'> | null;
  reload: () => Promise<void>;
}) {
  const { live } = useStatus();
  const [error, setError] = useState<string | null>(null);
  const underWay = selfCheck?.status === 'queued' || selfCheck?.status === 'running';
  const run = () => {
    setError(null);
    callApi('POST /api/trials', { body: { kind: 'self-check' } }).then(reload, (failure: unknown) =>
      setError(apiErrorOf(failure).message),
    );
  };
  const mine =
    underWay && live?.trialId === selfCheck.id && 'counters' in live.progress ? live.progress : null;
  return (
    <section className="flex flex-col gap-3">
      <div className="flex items-center gap-3">
        <h2>Can its measurements be trusted?</h2>
        <Button look={selfCheck ? 'plain' : 'main'} disabled={underWay} onClick={run}>
          {selfCheck ? 'Run the self-check again' : 'Run the self-check'}
        </Button>
        {underWay && (
          <span role="status" className="text-sm text-muted">
            {mine
              ? `Slot ${mine.counters.slot} of ${mine.counters.slotCount}${mine.msLeft === null ? '' : `, ${clockTime(mine.msLeft)} left`}`
              : 'Waiting for its turn'}
          </span>
        )}
      </div>
      {error && (
        <p role="alert" className="border-l-4 border-signal pl-3 text-sm">
          {error}
        </p>
      )}
      {!selfCheck && (
        <p className="max-w-2xl text-sm text-muted">
          The self-check plays a light clip for some seconds and holds reading, decoding and processing back
          on purpose in known slots. It must find exactly those drops with exactly those causes, and it
          measures how late this rig&rsquo;s timer wakes.
        </p>
      )}
      {selfCheck?.summary?.selfCheck && <SelfCheckReport result={selfCheck.summary.selfCheck} />}
      {selfCheck && !underWay && <DoubtNote load={selfCheck.load} decides={false} />}
      {selfCheck && !underWay && !selfCheck.summary?.selfCheck && (
        <p role="alert" className="border-l-4 border-signal pl-3 text-sm">
          The last self-check gave no verdict: {selfCheck.outcome ?? selfCheck.status}
        </p>
      )}
      {selfCheck && !underWay && (
        <p className="text-sm text-muted">
          {selfCheck.endedAt && `${dateTime(selfCheck.endedAt)}, `}
          <Link
            prefetch={false}
            href={`/trials/${selfCheck.id}`}
            className="underline decoration-edge underline-offset-4"
          >
            see its slots and conditions
          </Link>
        </p>
      )}
    </section>
  );
}
