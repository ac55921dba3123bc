'use client';
import { count, fixed, milliseconds } from '@/core/format';
import type { ScrubRequest, ScrubSummary } from '@/core/scrub/analyse';
import { Figure, FigureRow } from '../parts/Figure';
import { LagPlot } from '../timeline/LagPlot';
import { LatencyPlot } from '../timeline/LatencyPlot';
import { timelineView } from './shared/timeline';

export const scrub = timelineView<'scrub'>(
  ({ trial: { summary, record } }) => <ScrubFigures summary={summary} requests={record?.requests ?? []} />,
  'Raw requests',
  ({ settings: { gesture } }) =>
    gesture.kind === 'recorded'
      ? { gestures: ['recorded'], gestureId: gesture.gestureId }
      : { gestures: [gesture.kind], seed: gesture.seed, speed: gesture.speed },
);

function ScrubFigures({ summary, requests }: { summary: ScrubSummary; requests: readonly ScrubRequest[] }) {
  const { latencyMs, partsMs } = summary;
  return (
    <>
      <section aria-label="Lag" className="flex flex-col gap-1">
        <h2>Playhead and picture</h2>
        <LagPlot requests={requests} label="Position of the playhead and of the picture over the gesture" />
      </section>
      <section aria-label="Latency" className="flex flex-col gap-1">
        <h2>Latency by distance from the key frame</h2>
        <LatencyPlot
          series={[{ key: 'one', name: '', requests }]}
          label="Latency of each shown picture against its distance from the key frame"
        />
      </section>
      <FigureRow>
        <Figure name="Latency p50" note="request to picture">
          {milliseconds(latencyMs?.p50)}
        </Figure>
        <Figure name="p95">{milliseconds(latencyMs?.p95)}</Figure>
        <Figure name="Most">{milliseconds(latencyMs?.max)}</Figure>
        <Figure name="Shown" note={`of ${count(summary.requests)} positions`}>
          {count(summary.shown)}
        </Figure>
        <Figure name="Overtaken" note="by a newer position">
          {count(summary.superseded)}
        </Figure>
        {(summary.refused ?? 0) > 0 && (
          <Figure name="Not decoded" note="the decoder made no picture">
            {count(summary.refused ?? 0)}
          </Figure>
        )}
        <Figure name="Behind, mean" note={`most ${count(summary.lagSlots.most)} slots`}>
          {fixed(summary.lagSlots.mean, 1)} slots
        </Figure>
      </FigureRow>
      <FigureRow>
        <Figure name="Waiting, median" note="for the one before">
          {milliseconds(partsMs?.waiting)}
        </Figure>
        <Figure name="Read, median">{milliseconds(partsMs?.read)}</Figure>
        <Figure name="Decode, median">{milliseconds(partsMs?.decode)}</Figure>
        <Figure name="Process, median">{milliseconds(partsMs?.process)}</Figure>
        <Figure
          name="Wrong frames"
          note={summary.proved ? 'proved by the frame code' : 'not provable: no frame code in the picture'}
        >
          {summary.proved ? count(summary.wrong) : '–'}
        </Figure>
      </FigureRow>
    </>
  );
}
