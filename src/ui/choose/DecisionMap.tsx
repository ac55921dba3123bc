'use client';
import { megabitsPerSecond, megabytesPerSecond, milliseconds, money } from '@/core/format';
import { clsx } from 'clsx';
import { Dialog } from 'radix-ui';
import Link from 'next/link';
import { useState } from 'react';
import type { Decision, MapCell, MapPlace } from '@/server/decide/decision';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { Facts } from '../parts/Figure';
import { GradeMark } from '../parts/GradeMark';
import { Simulated } from '../parts/Simulated';
import { useSend } from '../useSend';
import type { KnownRate } from '@/core/choose/judge';
import { headroomWords } from '@/core/choose/setups';
import { isModelled } from './words';
import { useCurrency } from '../shell/status';

export interface MapActions {
  /** Queues the runs that fill a cell. */
  readonly measure: (rowId: string, volumeId: string) => void;
  readonly busy: boolean;
}

type Row = Decision['rows'][number];

/** Formats against volumes: each cell its grade, its headroom, and what it rests on; a cell opens its evidence. */
export function DecisionMap({
  decision,
  briefId,
  actions = null,
}: {
  decision: Decision;
  briefId: string;
  actions?: MapActions | null;
}) {
  const [open, setOpen] = useState<MapCell | null>(null);
  const { rows, places } = decision;
  return (
    <>
      <div
        className="overflow-x-auto border bg-surface"
        tabIndex={0}
        role="region"
        aria-label="Decision map, table"
      >
        <table aria-label="Decision map" className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b align-bottom text-left">
              <th scope="col" className="px-3 py-2 text-xs font-normal text-muted">
                Format
              </th>
              <PlaceHeads places={places} />
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id} className="border-b last:border-b-0">
                <th scope="row" className="max-w-64 px-3 py-2 text-left align-top font-semibold">
                  {row.name}
                  <span className="block text-xs font-normal text-muted">{row.formatLabel}</span>
                  <span className="block text-xs font-normal text-muted">
                    peak {megabitsPerSecond(row.peakBitsPerSecond)}
                  </span>
                </th>
                {places.map((place) => {
                  const cell = cellAt(decision, { ...place, rowId: row.id });
                  return (
                    <td
                      key={`${place.rigId} ${place.volumeId}`}
                      className={clsx(
                        'border-l p-0 align-top',
                        cell && edgeOf(cell, place),
                        cell?.judgement.meets === false && 'bg-raised/60',
                      )}
                    >
                      {cell && (
                        <Cell
                          cell={cell}
                          row={row}
                          place={place}
                          onOpen={() => setOpen(cell)}
                          actions={actions}
                        />
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-xs text-muted">
        Full edge: measured. Broken edge: computed, by arithmetic or by the model of a simulated rig. No edge:
        unknown. A cell opens what stands behind it.
      </p>
      <EvidenceDrawer decision={decision} briefId={briefId} open={open} onClose={() => setOpen(null)} />
    </>
  );
}

type CellKey = Pick<MapCell, 'rowId' | 'rigId' | 'volumeId'>;

const cellAt = ({ cells }: Decision, { rowId, rigId, volumeId }: CellKey): MapCell | undefined =>
  cells.find((one) => one.rowId === rowId && one.rigId === rigId && one.volumeId === volumeId);

/** Volumes over the columns, with what each carries and costs. */
function PlaceHeads({ places }: { places: readonly MapPlace[] }) {
  const currency = useCurrency();
  const manyRigs = new Set(places.map(({ rigId }) => rigId)).size > 1;
  return places.map((place) => (
    <th
      key={`${place.rigId} ${place.volumeId}`}
      scope="col"
      className="min-w-32 max-w-44 border-l px-3 py-2 text-left font-semibold"
    >
      {manyRigs && <span className="block text-xs font-normal text-muted">{place.rigName}</span>}
      {place.name}
      <span className="block text-xs font-normal text-muted">
        {place.rate
          ? `${megabytesPerSecond(place.rate.value)} ${place.rate.from === 'model' ? `by model${forStreams(place.rate)}` : 'measured'}`
          : 'rate not measured'}
      </span>
      {place.price !== null && place.price > 0 && (
        <span className="block text-xs font-normal text-muted">costs {money(place.price, currency)}</span>
      )}
      {place.simulated && <Simulated />}
    </th>
  ));
}

/** The evidence of the cell that was opened, as the map knows it now. */
function EvidenceDrawer({
  decision,
  briefId,
  open,
  onClose,
}: {
  decision: Decision;
  briefId: string;
  open: MapCell | null;
  onClose: () => void;
}) {
  return (
    <Dialog.Root
      open={open !== null}
      onOpenChange={(shown) => {
        if (!shown) onClose();
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed z-40 inset-y-0 right-0 w-[min(520px,94vw)] overflow-y-auto border-l border-edge bg-surface p-5 shadow-2xl"
        >
          {open && (
            <Evidence
              cell={cellAt(decision, open) ?? open}
              row={decision.rows.find(({ id }) => id === open.rowId)}
              place={decision.places.find(
                ({ rigId, volumeId }) => rigId === open.rigId && volumeId === open.volumeId,
              )}
              briefId={briefId}
            />
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Measured cells have a full edge, computed ones a broken one; unknown ones none. */
function edgeOf({ judgement: { basis } }: MapCell, place: MapPlace): string {
  if (basis === 'unknown') return '';
  return basis === 'measured' && !isModelled(place)
    ? 'border-l-4 border-l-slot'
    : 'border-l-4 border-dashed border-l-slot';
}

function Cell({
  cell,
  row,
  place,
  onOpen,
  actions,
}: {
  cell: MapCell;
  row: Row;
  place: MapPlace;
  onOpen: () => void;
  actions: MapActions | null;
}) {
  const { judgement, underWay, runs, cannot, failed } = cell;
  return (
    <div>
      <button
        type="button"
        onClick={onOpen}
        aria-label={`${row.name} from ${place.name}: ${cellWords(cell)}. Open the evidence`}
        className="block w-full px-2.5 py-2 text-left hover:bg-raised"
      >
        {judgement.grade ? (
          <GradeMark grade={judgement.grade} />
        ) : (
          <span className="text-muted">unknown</span>
        )}
        {judgement.headroom !== null && (
          <span className="figure block text-xs">{cellHeadroom(judgement)}</span>
        )}
        {judgement.underMargin && judgement.meets !== false && (
          <span className="block text-xs text-muted">under the margin</span>
        )}
        <span className="block text-xs text-muted">
          {judgement.basis === 'measured'
            ? `${isModelled(place) ? 'model run' : 'measured'}, ${runs.length} ${runs.length === 1 ? 'run' : 'runs'}`
            : judgement.basis === 'arithmetic'
              ? 'by arithmetic'
              : judgement.missing.length > 0
                ? `${judgement.missing.join(' and ')} not measured`
                : ''}
        </span>
        {failed && <span className="block text-xs text-signal-text">its newest run failed</span>}
        {judgement.isDoubtful && <span className="block text-xs text-signal-text">in doubt</span>}
        {judgement.meets === false && (
          <span className="block text-xs text-signal-text">does not meet the brief</span>
        )}
      </button>
      {underWay !== null && (
        <Link
          prefetch={false}
          href={`/trials/plans/${underWay}`}
          className="block px-2.5 pb-2 text-xs underline decoration-edge underline-offset-4"
        >
          measuring now
        </Link>
      )}
      {underWay === null && judgement.basis === 'unknown' && cannot === null && actions && (
        <div data-no-print className="px-2.5 pb-2">
          <Button
            look="main"
            className="h-7 px-2 text-xs"
            disabled={actions.busy}
            onClick={() => actions.measure(row.id, place.volumeId)}
          >
            {failed ? 'Measure it again' : 'Measure it'}
          </Button>
        </div>
      )}
    </div>
  );
}

/** A cell in words, for those who do not see it. */
function cellWords({ failed, judgement: { grade, basis, headroom, underMargin } }: MapCell): string {
  return grade === null
    ? `unknown${failed ? ', its newest run failed' : ''}`
    : `${grade}, ${basis}${headroom === null ? '' : `, ${headroomWords(headroom, underMargin)}`}`;
}

/** Headroom in words; what is enough on average may still not do slot by slot. */
function cellHeadroom({ headroom, meets }: MapCell['judgement']): string {
  if (headroom === null) return '';
  return headroom >= 0 && meets === false ? 'enough on average only' : headroomWords(headroom);
}

/** What stands behind a cell: its trials, the rates, and what would cure it. */
function Evidence({
  cell,
  row,
  place,
  briefId,
}: {
  cell: MapCell;
  row: Row | undefined;
  place: MapPlace | undefined;
  briefId: string;
}) {
  const { judgement, runs } = cell;
  if (!row || !place) return null;
  return (
    <div className="flex flex-col gap-4">
      <div>
        <Dialog.Title className="text-lg font-semibold">
          {row.name} from {place.name}
        </Dialog.Title>
        <p className="text-sm text-muted">{place.rigName}</p>
      </div>
      <div className="flex items-center gap-4">
        {judgement.grade ? (
          <GradeMark grade={judgement.grade} large />
        ) : (
          <span className="text-lg">unknown</span>
        )}
        <span className="figure">{cellHeadroom(judgement)}</span>
        {judgement.underMargin && judgement.meets !== false && (
          <span className="text-sm text-muted">under the margin</span>
        )}
      </div>
      {judgement.cure && <p className="border-l-4 border-signal pl-3 text-sm">{judgement.cure}</p>}
      {cell.failed && (
        <p className="border-l-4 border-signal pl-3 text-sm">
          <Link
            prefetch={false}
            className="underline decoration-edge underline-offset-4"
            href={`/trials/${cell.failed.trialId}`}
          >
            Its newest run failed
          </Link>
          : {cell.failed.outcome}
        </p>
      )}
      <Facts
        rows={[
          ['Rests on', basisWords(cell, place)],
          ['Volume', <VolumeRate key="volume" cell={cell} place={place} />],
          [
            'Decoding',
            cell.decodeTrialId ? (
              <Link prefetch={false} className="underline" href={`/media/decode/${cell.decodeTrialId}`}>
                measured on all cores
              </Link>
            ) : (
              'not measured'
            ),
          ],
        ]}
      />
      {runs.length > 0 && <CellRuns runs={runs} />}
      <MeasureAgain cell={cell} briefId={briefId} />
    </div>
  );
}

function basisWords({ judgement, runs }: MapCell, place: MapPlace): string {
  switch (judgement.basis) {
    case 'measured':
      return `${runs.length} ${isModelled(place) ? 'runs of a model' : 'measured runs'}; the worst of the newest five counts`;
    case 'arithmetic':
      return `arithmetic; limited by ${judgement.limit ?? 'nothing'}`;
    default:
      return `nothing yet: ${judgement.missing.join(' and ')} not measured`;
  }
}

/** What the cell's volume carries, and where that is known from. */
function VolumeRate({ cell, place: { rate } }: { cell: MapCell; place: MapPlace }) {
  if (!rate) return 'not measured';
  return (
    <>
      {megabytesPerSecond(rate.value)},{' '}
      {rate.from === 'model' ? (
        `by its model${forStreams(rate)}`
      ) : cell.volumeTrialId ? (
        <Link prefetch={false} className="underline" href={`/storage/trials/${cell.volumeTrialId}`}>
          measured
        </Link>
      ) : (
        'measured'
      )}
    </>
  );
}

function CellRuns({ runs }: Pick<MapCell, 'runs'>) {
  return (
    <section aria-label="Runs">
      <h3 className="text-sm font-semibold">Runs, newest first</h3>
      <ul className="mt-1 text-sm">
        {runs.map(({ trialId, grade, dropped, slots, slowestMs, doubt }) => (
          <li key={trialId} className="flex flex-wrap items-center gap-x-3 border-b py-1 last:border-b-0">
            <GradeMark grade={grade} />
            <Link
              prefetch={false}
              href={`/trials/${trialId}`}
              className="underline decoration-edge underline-offset-4"
            >
              {dropped} of {slots} dropped
            </Link>
            <span className="text-muted">slowest stage {milliseconds(slowestMs)}</span>
            {doubt && <span className="text-signal-text">{doubt}</span>}
          </li>
        ))}
      </ul>
      {runs.length > 1 && (
        <Link
          prefetch={false}
          href={`/compare?sides=${runs
            .slice(0, 8)
            .map(({ trialId }) => `t.${trialId}`)
            .join(',')}`}
          className="mt-2 inline-block text-sm underline"
        >
          Compare them
        </Link>
      )}
    </section>
  );
}

/** The last of the evidence: more of it, or why there cannot be more. */
function MeasureAgain({ cell, briefId }: { cell: MapCell; briefId: string }) {
  const { send, busy, error } = useSend();
  const { rowId, volumeId, cannot, underWay, runs, failed } = cell;
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        {cannot === null ? (
          <Button
            disabled={busy || underWay !== null}
            onClick={() => {
              void send('POST /api/briefs/{id}/measure', {
                ids: { id: briefId },
                body: { cells: [{ rowId, volumeId }] },
              });
            }}
          >
            {underWay ? 'Waiting or running' : runs.length > 0 || failed ? 'Measure it again' : 'Measure it'}
          </Button>
        ) : (
          <p className="text-sm text-muted">{cannot}</p>
        )}
        <Dialog.Close asChild>
          <Button look="quiet">Close</Button>
        </Dialog.Close>
      </div>
      <FormError message={error?.message} />
    </>
  );
}

const forStreams = ({ streams }: KnownRate) => (streams === undefined ? '' : ` for ${streams} streams`);
