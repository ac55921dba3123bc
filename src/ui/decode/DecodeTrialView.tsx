'use client';
import { RotateCcw, Square, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { formatLabel } from '@/core/media/format';
import type { DecodeTrialRow } from '@/db/queries/decodeTrials';
import type { DecodeTrialPage } from '@/server/decode';
import { callApi } from '../api';
import { clockTime, count, dateTime, memory, percent } from '../format';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { Facts, Figure, FigureRow } from '../parts/Figure';
import { FaultsNote } from '../parts/FaultsNote';
import { FormError } from '../parts/Field';
import { Progress } from '../parts/Progress';
import { Simulated } from '../parts/Simulated';
import { DoubtNote } from '../parts/DoubtNote';
import { useCancel } from '../shell/useCancel';
import { useStatus } from '../shell/status';
import { useFollowedTrial } from '../shell/useFollowedTrial';
import { useLive } from '../shell/useLive';
import { EndNote } from '../trial/EndNote';
import { useSend } from '../useSend';
import { RateFigures } from './RateFigures';
import { DecodeStreamsFigures } from './DecodeStreamsFigures';
import { SupportFigures } from './SupportFigures';
import { RepeatSeries } from '../plans/RepeatSeries';
import { RigDuring } from '../trial/RigDuring';
import { framesPerSecond, trialWords } from './words';

/** A decode trial on its page: while it waits or runs, and its result. */
export function DecodeTrialView({ initial }: { initial: DecodeTrialPage }) {
  const { id } = initial.trial;
  const [{ trial }, reload] = useLive(
    initial,
    `/api/decode/trials/${id}`,
    (event) => event.type === 'decode-status' && event.trialId === id,
  );
  useFollowedTrial(id, trial.status, reload);
  const isLive = trial.status === 'queued' || trial.status === 'running';
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <div className="flex items-start gap-4">
        <div className="flex min-w-0 flex-wrap items-baseline gap-x-4 gap-y-1 text-sm text-muted">
          <span className="text-base font-semibold text-ink">{trialWords(trial)}</span>
          {trial.subject.device?.simulated && <Simulated />}
          {trial.clipId ? (
            <Link
              prefetch={false}
              href={`/media/clips/${trial.clipId}`}
              className="break-all underline decoration-edge underline-offset-4"
            >
              {trial.subject.clipPath}
            </Link>
          ) : (
            <span className="break-all">{trial.subject.clipPath}</span>
          )}
          <span>{formatLabel(trial.subject.format)}</span>
        </div>
        {!isLive && <Actions trial={trial} />}
      </div>
      {isLive ? (
        <Live trial={trial} />
      ) : (
        <>
          <Result trial={trial} />
          <RigDuring trialId={trial.id} load={trial.load} />
        </>
      )}
    </div>
  );
}

function Live({ trial }: { trial: DecodeTrialRow }) {
  const { decodeProgress } = useStatus();
  const progress = decodeProgress?.trialId === trial.id ? decodeProgress.progress : null;
  const { cancel, asked, busy, error } = useCancel(
    `/api/decode/trials/${trial.id}/cancel`,
    'Cancel this trial',
  );
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-center gap-2">
        <h1 aria-live="polite" className="mr-auto">
          {trial.status === 'queued'
            ? 'Waiting for its turn'
            : (progress?.note ?? 'Reading the clip into memory')}
        </h1>
        <Button onClick={cancel} disabled={busy || asked}>
          <Square aria-hidden className="size-4" />
          {asked ? 'Cancelling' : 'Cancel'}
        </Button>
      </div>
      <FormError message={error?.message} />
      <Progress value={progress?.share ?? 0} most={1} label="Progress" />
      <FigureRow>
        <Figure name="Decoding now, /s">
          {progress && progress.framesPerSecond > 0 ? framesPerSecond(progress.framesPerSecond) : '–'}
        </Figure>
        <Figure name="Frames so far">{progress ? count(progress.frames) : '–'}</Figure>
        <Figure name="Done">{percent(progress?.share ?? 0, 0)}</Figure>
        <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
      </FigureRow>
      <p className="text-sm text-muted">You may leave this page; the trial goes on.</p>
    </div>
  );
}

function Result({ trial }: { trial: DecodeTrialRow }) {
  const { result, status, load, record } = trial;
  const whole = status === 'done';
  return (
    <>
      {!whole && <EndNote of={trial} />}
      {whole && <h1 data-testid="answer">{trial.outcome}</h1>}
      <DoubtNote load={load} />
      {result?.kind === 'rate' && <RateFigures result={result} subject={trial.subject} />}
      {result?.kind === 'support' && <SupportFigures result={result} device={trial.subject.device} />}
      {result?.kind === 'streams' && <DecodeStreamsFigures result={result} />}
      {record?.faults && (
        <FaultsNote faults={{ clips: [{ media: '', name: '', faults: record.faults }], doubtful: [] }} />
      )}
      <Conditions trial={trial} />
    </>
  );
}

function Conditions({
  trial: { conditions, settings, subject, load, startedAt, endedAt },
}: {
  trial: DecodeTrialRow;
}) {
  if (!conditions) return null;
  return (
    <section aria-label="Conditions">
      <h2 className="mb-2">Conditions</h2>
      <Facts
        rows={[
          [
            'Rig',
            `${conditions.rig.processor}, ${conditions.rig.logicalCores} cores, ${memory(conditions.rig.memoryBytes)}`,
          ],
          ['Read from', 'memory; the clip was read before the first pass'],
          ...(settings.kind === 'streams'
            ? [
                ['Timeline rate', `${settings.rate.num}/${settings.rate.den}`] as const,
                ['Each number of streams', `${settings.seconds} s`] as const,
              ]
            : [
                ['One core', 'process pinned to the first core, one thread'] as const,
                ['Length of a pass', `${settings.passSeconds} s`] as const,
              ]),
          ...(subject.device ? [['Device', `${subject.device.name}: ${subject.device.about}`] as const] : []),
          [
            'Load by others',
            load
              ? `${percent(load.othersMean, 0)} mean, ${percent(load.othersPeak, 0)} peak`
              : 'not measured',
          ],
          [
            'Clip',
            `${subject.clipPath} on ${subject.volumeName}, content ${subject.contentHash?.slice(0, 12) ?? 'not known'}`,
          ],
          [
            'Made',
            `${startedAt ? dateTime(startedAt) : '–'} to ${endedAt ? dateTime(endedAt) : '–'}, Navvy ${conditions.softwareVersion}`,
          ],
        ]}
      />
    </section>
  );
}

function Actions({ trial }: { trial: DecodeTrialRow }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const { settings, clipId } = trial;
  const again = async () => {
    if (settings.kind === 'streams') {
      const made = await send<{ id: string }>('/api/decode/streams', 'POST', { ...settings, clipId });
      if (made) router.push(`/media/decode/${made.id}`);
      return;
    }
    const made = await send<{ ids: string[] }>(
      `/api/decode/${settings.kind === 'rate' ? 'rates' : 'support'}`,
      'POST',
      {
        ...settings,
        clipIds: [clipId],
        ...(settings.kind === 'support' ? { deviceIds: [settings.deviceId] } : {}),
      },
    );
    if (made) router.push(`/media/decode/${made.ids[0] ?? ''}`);
  };
  return (
    <div data-no-print className="ml-auto flex shrink-0 items-start gap-1">
      {clipId && (
        <Button
          disabled={busy}
          onClick={() => {
            void again();
          }}
        >
          <RotateCcw aria-hidden className="size-4" />
          Repeat
        </Button>
      )}
      {clipId && <RepeatSeries kind="decode" trialId={trial.id} />}
      <ConfirmButton
        label="Remove this trial"
        title="Remove this trial?"
        consequence="The result and its record of passes go. This cannot be undone."
        verb="Remove"
        act={async () => {
          await callApi(`/api/decode/trials/${trial.id}`, 'DELETE');
          router.push(settings.kind === 'support' ? '/media/support' : '/media/decode');
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
      <FormError message={error?.message} />
    </div>
  );
}
