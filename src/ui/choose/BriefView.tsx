'use client';
import { count, megabytesPerSecond, money, percent, quantity } from '@/core/format';
import { FileText, Pencil, Timer, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo } from 'react';
import { callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { FormError } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { useCommands } from '../keys/commands';
import { useLive } from '../shell/useLive';
import { useSend } from '../useSend';
import { DecisionMap } from './DecisionMap';
import { SetUpTable } from './SetUpTable';
import type { BriefPage } from '../pages';
import { useCurrency } from '../shell/status';

const changes = new Set([
  'plan',
  'trial-status',
  'storage-status',
  'decode-status',
  'clips',
  'rendition-status',
  'devices',
]);

/** A brief: its answer, the map it is read from, and the set-ups in order. */
export function BriefView({ initial, rigId }: { initial: BriefPage; rigId: string }) {
  const { id } = initial.brief;
  const [{ brief, decision }] = useLive(initial, 'GET /api/briefs/{id}', (event) => changes.has(event.type), {
    ids: { id },
  });
  const { busy, error, send } = useSend();
  const unknown = decision.cells.filter(
    ({ judgement, rigId: of, underWay, cannot }) =>
      of === rigId && judgement.basis === 'unknown' && underWay === null && cannot === null,
  ).length;
  const measure = (cells: readonly { readonly rowId: string; readonly volumeId: string }[] | null) => {
    void send('POST /api/briefs/{id}/measure', { ids: { id }, body: { cells: cells && [...cells] } });
  };
  return (
    <div className="flex flex-col gap-5">
      <BriefHead brief={brief} />
      <h1 data-testid="answer">{decision.sentence}</h1>
      <BriefLine page={{ brief, decision }} />
      {unknown > 1 && (
        <div className="flex items-center gap-3">
          <Button look="main" disabled={busy} onClick={() => measure(null)}>
            Measure all {count(unknown)} unknown cells
          </Button>
          <span className="text-sm text-muted">three cold runs of each</span>
        </div>
      )}
      <FormError message={error?.message} />
      <section aria-label="Map">
        <DecisionMap
          decision={decision}
          briefId={id}
          actions={{ busy, measure: (rowId, volumeId) => measure([{ rowId, volumeId }]) }}
        />
        <WithoutProxy cameras={decision.withoutProxy} />
      </section>
      <section aria-label="Set-ups in order">
        <h2 className="mb-2">Set-ups, best first</h2>
        <SetUpTable setUps={decision.setUps} />
      </section>
    </div>
  );
}

/** What it is called and asks, and where one goes from it. */
function BriefHead({ brief }: Pick<BriefPage, 'brief'>) {
  const router = useRouter();
  const { id, document } = brief;
  useCommands(
    useMemo(
      () => [
        {
          id: 'report',
          label: 'Open the report',
          group: 'Brief',
          key: 'r',
          run: () => router.push(`/choose/${id}/report`),
        },
        {
          id: 'edit-brief',
          label: 'Change the brief',
          group: 'Brief',
          key: 'e',
          run: () => router.push(`/choose/${id}/edit`),
        },
      ],
      [router, id],
    ),
  );
  return (
    <div className="flex flex-wrap items-center gap-2">
      <div className="mr-auto min-w-0">
        <p className="flex text-sm text-muted">
          <Link prefetch={false} href="/choose" className="underline decoration-edge underline-offset-4">
            Choose
          </Link>
          <span className="ml-3 flex min-w-0 font-semibold text-ink">
            <MiddleName name={brief.name} tail={20} />
          </span>
        </p>
        {document.question && <p className="mt-1 text-muted">{document.question}</p>}
      </div>
      <LinkButton href={`/choose/${id}/edit`}>
        <Pencil aria-hidden className="size-4" />
        Change the brief
      </LinkButton>
      {document.cameras[0] && (
        <LinkButton href={`/trials/tasks?content=${document.cameras[0].contentHash}`}>
          <Timer aria-hidden className="size-4" />
          Time an export
        </LinkButton>
      )}
      <LinkButton href={`/choose/${id}/report`}>
        <FileText aria-hidden className="size-4" />
        Report
      </LinkButton>
      <ConfirmButton
        label="Remove this brief"
        title="Remove this brief?"
        consequence={`The brief ${brief.name} is removed. The results it rests on stay.`}
        verb="Remove"
        act={async () => {
          await callApi('DELETE /api/briefs/{id}', { ids: { id } });
          router.push('/choose');
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
    </div>
  );
}

/** Which cameras could still be tried as proxies. */
function WithoutProxy({ cameras }: { cameras: BriefPage['decision']['withoutProxy'] }) {
  if (cameras.length === 0) return null;
  return (
    <p data-no-print className="mt-1 text-xs text-muted">
      Without a proxy: {cameras.map(({ name }) => name).join(', ')}.{' '}
      <Link
        prefetch={false}
        href={`/media/renditions?clips=${cameras.map(({ clipId }) => clipId).join(',')}`}
        className="underline decoration-edge underline-offset-4 hover:text-ink"
      >
        {cameras.length === 1 ? 'Make one' : 'Make some'}
      </Link>{' '}
      to have it in the map.
    </p>
  );
}

/** The brief in a line. */
export function BriefLine({
  page: {
    brief: { document },
    decision,
  },
}: {
  page: BriefPage;
}) {
  const { cameras, days, streams, looks, scale, speed, grade, margin, budget } = document;
  const currency = useCurrency();
  return (
    <p className="text-sm text-muted">
      {cameras.map(({ name, hoursPerDay }) => `${name} ${quantity(hoursPerDay, 'h')}`).join(', ')} a day for{' '}
      {days} {days === 1 ? 'day' : 'days'}; {streams === 1 ? 'one stream' : `${streams} streams`}
      {looks > 0 ? ` with ${looks} ${looks === 1 ? 'grade' : 'grades'} each` : ''} must be {grade} or better
      at {scale} scale{speed === 1 ? '' : ` and ${speed}x speed`}, {percent(margin, 0)} margin
      {budget === null ? '' : `, budget ${money(budget, currency)}`}
      {decision.cardBytesPerSecond === null
        ? ''
        : `; cards give ${megabytesPerSecond(decision.cardBytesPerSecond)}`}
    </p>
  );
}
