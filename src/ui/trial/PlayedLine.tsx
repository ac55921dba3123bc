'use client';
import Link from 'next/link';
import { decodingWords, isSoftwareAlone } from '@/core/decode/decoding';
import { losesDepth } from '@/core/playback/depth';
import { showsFields } from '@/core/playback/fields';
import { soundOf } from '@/core/playback/sound';
import { formatLabel } from '@/core/media/format';
import { rateLabel } from '@/core/time/rational';
import { formatsOf, nameOf, rateOf, scansOf, volumesOf } from '@/core/timeline/subject';
import type { PlayedTrial } from '@/db/kinds';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { courseWords, policyWords } from '../trialWords';

/** Which clip, from where, under what: the line above every trial. */
export function PlayedLine({ trial }: { trial: PlayedTrial }) {
  const { subject, settings } = trial;
  return (
    <>
      <Link
        prefetch={false}
        href={trial.kind === 'self-check' ? '/rig' : '/trials'}
        className="underline decoration-edge underline-offset-4"
      >
        {trial.kind === 'self-check' ? 'Rig' : 'Trials'}
      </Link>
      <span className="flex min-w-0 text-base font-semibold text-ink">
        {subject.timeline ? (
          <Link
            prefetch={false}
            href={`/timelines/${subject.timeline.id}`}
            className="underline decoration-edge underline-offset-4"
          >
            {subject.timeline.name}
          </Link>
        ) : (
          <MiddleName name={nameOf(subject)} />
        )}
      </span>
      <span>
        {subject.timeline
          ? `${subject.timeline.width}x${subject.timeline.height}, version ${subject.timeline.version}`
          : formatLabel(subject.format)}
        , {rateLabel(rateOf(subject))} per second
      </span>
      <span>
        from {volumesOf(subject).names.join(', ')}
        {volumesOf(subject).simulated && (
          <>
            {' '}
            <Simulated model={subject.timeline ? null : (subject.standIn ?? null)} />
          </>
        )}
      </span>
      {subject.timeline && <span>{courseWords(subject.timeline)}</span>}
      <span>
        {settings.scale} scale, {policyWords[settings.policy]}
        {settings.warm ? ', warm on purpose' : ''}
        {isSoftwareAlone(settings.decoding) ? '' : `, decoded on ${decodingWords(settings.decoding)}`}
        {losesDepth(settings, formatsOf(subject)) ? ', in 8 bits' : ''}
        {showsFields(settings, scansOf(subject)) ? ', deinterlaced' : ''}
        {settings.sound === 'off' && soundOf(subject).length > 0 ? ', without sound' : ''}
        {settings.meanwhile === 'previews' ? ', while thumbnails and sound peaks are drawn' : ''}
      </span>
    </>
  );
}
