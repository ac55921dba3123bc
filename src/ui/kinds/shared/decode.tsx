'use client';
import { clockTime, count, percent, quantity } from '@/core/format';
import Link from 'next/link';
import type { ComponentType, ReactNode } from 'react';
import { decodingWords, isSimulatedDecoding } from '@/core/decode/decoding';
import type { DecodeKind } from '@/core/kinds/kinds';
import { formatLabel } from '@/core/media/format';
import { workedInWords } from '@/core/playback/depth';
import { askedSettings } from './timeline';
import type { DecodeTrial, TrialRow } from '@/db/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import { FaultsNote } from '../../parts/FaultsNote';
import { Figure, FigureRow } from '../../parts/Figure';
import { Simulated } from '../../parts/Simulated';
import { useProgress } from '../../shell/status';
import { ConditionsFrame } from '../../trial/ConditionsFrame';
import { LiveFrame } from '../../trial/LiveFrame';
import { ResultFrame } from '../../trial/ResultFrame';
import type { Possible } from '../../trial/TrialActions';
import type { KindView, WithSummary } from '../kind';
import { framesPerSecond, trialWords } from '../../decode/words';
import type { DecodeProgress } from '@/core/kinds/shared/decode';

const isOnStandIn = ({ settings }: DecodeTrial): boolean =>
  'decoding' in settings && isSimulatedDecoding(settings.decoding);

/** What was decoded. */
function DecodeLine({ trial }: { trial: DecodeTrial }) {
  return (
    <>
      <span className="text-base font-semibold text-ink">{trialWords(trial)}</span>
      {(trial.subject.device?.simulated === true || isOnStandIn(trial)) && <Simulated />}
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
    </>
  );
}

function DecodeLive({ page: { trial } }: { page: TrialPage<DecodeKind> }) {
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

/** The result of a decode trial; its kind puts its numbers into it. */
function DecodeResult({ page, children }: { page: TrialPage<DecodeKind>; children: ReactNode }) {
  const { trial } = page;
  const faults = trial.record?.faults;
  return (
    <ResultFrame page={page} answer={trial.status === 'done' && trial.outcome}>
      {children}
      {faults && <FaultsNote faults={{ clips: [{ media: '', name: '', faults }], doubtful: [] }} />}
      <Conditions trial={trial} />
    </ResultFrame>
  );
}

function Conditions({ trial }: { trial: DecodeTrial }) {
  const { settings, subject } = trial;
  return (
    <ConditionsFrame
      trial={trial}
      rows={[
        ['Read from', 'memory; the clip was read before the first pass'],
        ...(settings.kind === 'decode-streams'
          ? [
              ['Timeline rate', `${settings.rate.num}/${settings.rate.den}`] as const,
              ['Decoded by', decodingWords(settings.decoding)] as const,
              ['Processed in', workedInWords(settings, [subject.format])] as const,
              ['Each number of streams', quantity(settings.seconds, 's')] as const,
            ]
          : [
              ['One core', 'process pinned to the first core, one thread'] as const,
              ['Length of a pass', quantity(settings.passSeconds, 's')] as const,
            ]),
        ...(subject.device ? [['Device', `${subject.device.name}: ${subject.device.about}`] as const] : []),
        [
          'Clip',
          `${subject.clipPath} on ${subject.volumeName}, content ${subject.contentHash?.slice(0, 12) ?? 'not known'}`,
        ],
      ]}
    />
  );
}

/** What can be done with one. @param again how its kind asks for the same clip */
function decodePossible(
  { clipId, settings }: DecodeTrial,
  home: string,
  again: (clipId: string) => Readonly<Record<string, unknown>>,
): Possible {
  return {
    again: clipId === null ? null : { ...askedSettings(settings), ...again(clipId) },
    record: 'Raw record',
    goes: 'The result and its record of passes are removed. This cannot be undone.',
    home,
  };
}

/** A kind that decodes, by what it shows of its summary. @param again how it asks for the same clip */
export function decodeView<Kind extends DecodeKind>(
  Figures: ComponentType<{ trial: WithSummary<Kind> }>,
  home: string,
  again: (clipId: string, trial: TrialRow<Kind>) => Readonly<Record<string, unknown>>,
): KindView<Kind> {
  const view: KindView<DecodeKind> = {
    Line: DecodeLine,
    Live: DecodeLive,
    Result: ({ page }) => (
      <DecodeResult page={page}>
        {page.trial.summary && <Figures trial={page.trial as unknown as WithSummary<Kind>} />}
      </DecodeResult>
    ),
    possible: ({ trial }) =>
      decodePossible(trial, home, (clipId) => again(clipId, trial as unknown as TrialRow<Kind>)),
  };
  return view as unknown as KindView<Kind>;
}
