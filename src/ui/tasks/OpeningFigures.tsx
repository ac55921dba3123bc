'use client';
import { count, duration, megabytesPerSecond, milliseconds, percent, size } from '@/core/format';
import {
  clipOpening,
  clipOpeningParts,
  openingHolds,
  openingNouns,
  openingParts,
  type OpenedClip,
  type OpeningHold,
  type OpeningRecord,
  type OpeningStep,
  type OpeningSummary,
} from '@/core/tasks/opening';
import { Figure, FigureRow } from '../parts/Figure';
import { clipOpeningNames } from './words';
import { HeldTable } from './HeldTable';
import { OpeningChart, partColours } from './OpeningChart';
import { ColumnHeads } from '../table/ColumnHeads';

/** What may hold back an opening to first pictures, and one of clips as a whole. */
const toPictureHolds = ['read', 'header', 'picture'] as const satisfies readonly OpeningHold[];
const wholeHolds = openingHolds.filter((one) => one !== 'picture');

const timeText = (ms: number | null) => (ms === null ? '–' : duration(ms));

/** Clips that are listed: the ones that took longest. */
const mostListed = 20;

/** How long opening took until what was there, and what held it back. */
export function OpeningFigures({
  summary,
  record,
}: {
  summary: OpeningSummary;
  record: OpeningRecord | undefined;
}) {
  const { parts, elapsedMs, clips, whole, firstMs, headersMs, picturesMs, soundMs, each } = summary;
  const bytes = openingParts.reduce((sum, part) => sum + (parts[part]?.bytes ?? 0), parts.first.bytes);
  const read = (
    <Figure name="Read" note={megabytesPerSecond((bytes * 1000) / elapsedMs)}>
      {size(bytes)}
    </Figure>
  );
  return (
    <>
      {each ? (
        <FigureRow>
          {clipOpeningParts.map((part) => (
            <Figure
              key={part}
              name={clipOpeningNames[part]}
              note={`at worst ${milliseconds(each.worst[part])}`}
            >
              {milliseconds(each.median[part])}
            </Figure>
          ))}
          <Figure name="Opened" note={`of ${count(clips)} clips`}>
            {count(each.clips)}
          </Figure>
          {read}
        </FigureRow>
      ) : (
        <FigureRow>
          <Figure name="First picture" note="with the headers of its clips">
            {timeText(firstMs)}
          </Figure>
          <Figure name="All headers">{timeText(headersMs)}</Figure>
          <Figure name="All thumbnails" note={`${count(whole)} of ${count(clips)} clips`}>
            {timeText(picturesMs)}
          </Figure>
          <Figure name="All sound peaks" note={`${count(parts.sound.steps)} with sound`}>
            {timeText(soundMs)}
          </Figure>
          {read}
        </FigureRow>
      )}
      <section aria-label="What held it back" className="flex flex-col gap-2">
        <h2>What held it back</h2>
        <HoldTable summary={summary} />
        <p className="text-sm text-muted">
          Found by laying its steps out again with one of them changed; unchanged they take{' '}
          {percent(summary.agreement, 0)} of the measured time.{' '}
          {summary.hold && summary.least
            ? `${openingNouns[summary.hold].name} ${summary.least.factor} times as fast would have saved ${percent(summary.least.saved, 0)}; more than that helps little further.`
            : ''}
        </p>
      </section>
      {record && (
        <section aria-label="Over time" className="flex flex-col gap-2">
          <h2>Over time</h2>
          <OpeningChart record={record} />
        </section>
      )}
      {record && record.clips.length > 1 && <ClipTable clips={record.clips} />}
    </>
  );
}

function HoldTable({ summary: { parts, hold, free, twice, each } }: { summary: OpeningSummary }) {
  const told = each ? toPictureHolds : wholeHolds;
  const waitedMs = told.reduce((sum, one) => sum + (one === 'read' ? 0 : parts[one].readMs), 0);
  return (
    <HeldTable
      first="Part"
      heads={['Times', 'Time, all clips together']}
      held={hold}
      rows={told.map((one) => ({
        id: one,
        name: openingNouns[one].name,
        colour: partColours[one],
        twice: twice[one],
        free: free[one],
        cells:
          one === 'read'
            ? ['–', timeText(waitedMs)]
            : [count(parts[one].steps), timeText(parts[one].ms - parts[one].readMs)],
      }))}
    />
  );
}

const lasted = (step: OpeningStep | null) => (step ? step.toMs - step.fromMs : null);
const stepsOf = (clip: OpenedClip) => openingParts.flatMap((part) => clip[part] ?? []);
const total = (clip: OpenedClip, of: (step: OpeningStep) => number) =>
  stepsOf(clip).reduce((sum, step) => sum + of(step), 0);

/** Clips that took longest, those with a problem first. */
function ClipTable({ clips }: { clips: readonly OpenedClip[] }) {
  const took = (clip: OpenedClip) => total(clip, ({ fromMs, toMs }) => toMs - fromMs);
  const sorted = [...clips].sort(
    (a, b) => Number(b.problem !== null) - Number(a.problem !== null) || took(b) - took(a),
  );
  const isCut = sorted.length > mostListed;
  const toPicture = clips.some((clip) => clipOpening(clip));
  const shown = toPicture ? (['header', 'picture'] as const) : (['header', 'pictures', 'sound'] as const);
  const partHeads = toPicture
    ? ['First byte', 'Index, in all', 'First picture, after it']
    : ['Header', 'Thumbnails', 'Sound peaks'];
  return (
    <section aria-label="By clip" className="flex flex-col gap-2">
      <h2>{isCut ? `The ${mostListed} clips that took longest, of ${count(clips.length)}` : 'By clip'}</h2>
      <div className="overflow-x-auto border bg-surface">
        <table aria-label="By clip" className="w-full text-sm">
          <ColumnHeads names={['Clip', ...partHeads, 'Of that waiting', 'Read']} />
          <tbody>
            {sorted.slice(0, mostListed).map((clip, at) => (
              <tr key={`${clip.name} ${at}`} className="border-b last:border-b-0">
                <td className="max-w-80 break-all px-3 py-1.5">
                  {clip.name}
                  {clip.problem && <span className="block text-signal-text">{clip.problem}</span>}
                </td>
                {toPicture && (
                  <td className="figure px-3 py-1.5">{milliseconds(clip.header?.firstByteMs ?? null)}</td>
                )}
                {shown.map((part) => (
                  <td key={part} className="figure px-3 py-1.5">
                    {part === 'sound' && clip.pictures && !clip.sound
                      ? 'none'
                      : timeText(lasted(clip[part] ?? null))}
                  </td>
                ))}
                <td className="figure px-3 py-1.5">{timeText(total(clip, ({ readMs }) => readMs))}</td>
                <td className="figure px-3 py-1.5">{size(total(clip, ({ bytes }) => bytes))}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
