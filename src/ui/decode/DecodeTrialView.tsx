'use client';
import Link from 'next/link';
import type { DecodeKind } from '@/core/kinds/kinds';
import { formatLabel } from '@/core/media/format';
import type { DecodeTrial } from '@/db/kinds';
import type { TrialPage } from '@/server/trialPage';
import { clockTime, count, dateTime, memory, percent } from '../format';
import { FaultsNote } from '../parts/FaultsNote';
import { Facts, Figure, FigureRow } from '../parts/Figure';
import { Simulated } from '../parts/Simulated';
import { useProgress } from '../shell/status';
import { LiveFrame } from '../trial/LiveFrame';
import { ResultFrame, TrialLine } from '../trial/ResultFrame';
import { TrialActions } from '../trial/TrialActions';
import { useTrialPage } from '../trial/useTrialPage';
import { DecodeStreamsFigures } from './DecodeStreamsFigures';
import { RateFigures } from './RateFigures';
import { SupportFigures } from './SupportFigures';
import { framesPerSecond, trialWords } from './words';
import type { DecodeProgress } from '@/core/kinds/shared/decode';

/** A decode trial on its page: while it waits or runs, and its result. */
export function DecodeTrialView({ initial }: { initial: TrialPage<DecodeKind> }) {
  const { page, isLive } = useTrialPage(initial);
  const { trial, plan } = page;
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <TrialLine plan={plan} actions={!isLive && <Actions page={page} />}>
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
      </TrialLine>
      {isLive ? <Live trial={trial} /> : <Result page={page} />}
    </div>
  );
}

function Live({ trial }: { trial: DecodeTrial }) {
  const progress = useProgress<DecodeProgress>(trial.id);
  return (
    <LiveFrame
      trial={trial}
      now={progress?.note ?? 'Reading the clip into memory'}
      share={progress?.share ?? 0}
    >
      <FigureRow>
        <Figure name="Decoding now, /s">
          {progress && progress.framesPerSecond > 0 ? framesPerSecond(progress.framesPerSecond) : '–'}
        </Figure>
        <Figure name="Frames so far">{progress ? count(progress.frames) : '–'}</Figure>
        <Figure name="Done">{percent(progress?.share ?? 0, 0)}</Figure>
        <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
      </FigureRow>
    </LiveFrame>
  );
}

function Result({ page }: { page: TrialPage<DecodeKind> }) {
  const { trial } = page;
  const { status, record } = trial;
  return (
    <ResultFrame page={page} answer={status === 'done' && trial.outcome}>
      {trial.kind === 'decode-rate' && trial.summary && (
        <RateFigures result={trial.summary} subject={trial.subject} />
      )}
      {trial.kind === 'decode-support' && trial.summary && (
        <SupportFigures result={trial.summary} device={trial.subject.device} />
      )}
      {trial.kind === 'decode-streams' && trial.summary && <DecodeStreamsFigures result={trial.summary} />}
      {record?.faults && (
        <FaultsNote faults={{ clips: [{ media: '', name: '', faults: record.faults }], doubtful: [] }} />
      )}
      <Conditions trial={trial} />
    </ResultFrame>
  );
}

function Conditions({
  trial: { conditions, settings, subject, load, startedAt, endedAt },
}: {
  trial: DecodeTrial;
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
          ...(settings.kind === 'decode-streams'
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

/** The same trial again, as it is asked for; null when its clip is gone. */
function againOf({ kind, settings, clipId }: DecodeTrial) {
  if (clipId === null) return null;
  if (kind === 'decode-streams') return { ...settings, kind, clipId };
  return {
    ...settings,
    kind,
    clipIds: [clipId],
    ...(kind === 'decode-support' ? { deviceIds: [settings.deviceId] } : {}),
  };
}

function Actions({ page }: { page: TrialPage<DecodeKind> }) {
  const { trial } = page;
  return (
    <TrialActions
      page={page}
      again={againOf(trial)}
      record="Raw record"
      goes="The result and its record of passes go. This cannot be undone."
      home={trial.kind === 'decode-support' ? '/media/support' : '/media/decode'}
    />
  );
}
