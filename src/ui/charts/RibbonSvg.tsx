import { useId } from 'react';
import { causesOf } from '@/core/playback/attribute';
import type { Cause } from '@/core/playback/slots';
import { slotState } from '@/core/playback/slots';
import { causeStyles, type Hatch } from './causes';
import { hasSound, soundState } from '@/core/playback/sound';
import {
  capTop,
  doubtfulCap,
  heights,
  soundHeights,
  soundLane,
  worstSlot,
  worstSound,
  type RibbonData,
} from './paintRibbon';

const width = 1_000;
const height = 40;

/** Lines of a cause's hatching in a tile of 6 units. */
const hatches: Record<Hatch, string> = {
  broken: 'M0 4.5L3 1.5L6 4.5',
  level: 'M0 2H6M0 5H6',
  rising: 'M0 6L6 0M-1 1L1 -1M5 7L7 5',
  crossed: 'M0 0L6 6M0 6L6 0',
  dots: 'M1.5 1.5h1.6v1.6h-1.6zM4.5 4.5h1.6v1.6h-1.6z',
};

interface Run {
  readonly from: number;
  readonly to: number;
  readonly state: number;
  readonly charge: number;
  readonly isDoubtful: boolean;
  readonly sound: number;
}

/** Neighbouring columns of equal state and charge joined, each column the worst of its slots: some hundreds of marks at most. */
function runsOf(data: RibbonData, most: number): Run[] {
  const columns = Math.min(data.slots, 500);
  const runs: Run[] = [];
  for (let column = 0; column < columns; column++) {
    const [from, to] = [
      Math.floor((column * data.slots) / columns),
      Math.max(1, Math.floor(((column + 1) * data.slots) / columns)),
    ];
    const worst = worstSlot(data, from, to);
    const [state, charge, isDoubtful] = [
      data.state[worst] ?? 0,
      data.charge[worst] ?? 0,
      data.doubtful?.[worst] === 1,
    ];
    const sound = worstSound(data, from, to);
    const last = runs.at(-1);
    const end = (to / most) * width;
    if (
      last?.state === state &&
      last.charge === charge &&
      last.isDoubtful === isDoubtful &&
      last.sound === sound &&
      state !== slotState.dropped
    )
      runs[runs.length - 1] = { ...last, to: end };
    else runs.push({ from: (from / most) * width, to: end, state, charge, isDoubtful, sound });
  }
  return runs;
}

/** What a run that names no cause is filled with. */
function plainFill(state: number): string {
  switch (state) {
    case slotState.dropped:
      return 'var(--signal-text)';
    case slotState.wrong:
      return 'var(--ink)';
    case slotState.late:
      return 'var(--muted)';
    case slotState.pending:
      return 'var(--line)';
    default:
      return 'var(--slot)';
  }
}

function soundFill(sound: number, id: string): string {
  if (sound === soundState.ready) return 'var(--slot)';
  return sound === soundState.broken ? `url(#${id}-media)` : 'var(--ink)';
}

/** Slots alike: as tall as their state, in the hatches of their causes, with what was doubtful above and the sound below. */
function RunRects({
  run: { from, to, state, charge, isDoubtful, sound },
  id,
  lane,
}: {
  run: ReturnType<typeof runsOf>[number];
  id: string;
  lane: number;
}) {
  const foot = height - lane;
  const tall = foot * (heights[state] ?? 0);
  const top = isDoubtful ? capTop(state) : null;
  const causes = state === slotState.dropped ? causesOf(charge) : [];
  const low = lane * (soundHeights[sound] ?? 0);
  const across = { x: from, width: to - from };
  return (
    <g>
      {causes.length === 0 && <rect {...across} y={foot - tall} height={tall} fill={plainFill(state)} />}
      {causes.map((cause, at) => (
        <rect
          key={cause}
          {...across}
          y={foot - tall + (at * tall) / causes.length}
          height={tall / causes.length}
          fill={`url(#${id}-${cause})`}
        />
      ))}
      {causes.length === 0 && top !== null && (
        <rect {...across} y={foot * top} height={foot * doubtfulCap} fill={`url(#${id}-media)`} />
      )}
      {low > 0 && <rect {...across} y={height - low} height={low} fill={soundFill(sound, id)} />}
    </g>
  );
}

/** A ribbon that prints: one cell per slot, or per column where there are many. @param most slots that the whole width stands for */
export function RibbonSvg({ data, most, label }: { data: RibbonData; most: number; label: string }) {
  const id = useId();
  const lane = hasSound(data.sound) ? height * soundLane : 0;
  return (
    <svg
      role="img"
      aria-label={label}
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio="none"
      className="block h-10 w-full border bg-surface"
    >
      <defs>
        {(Object.entries(causeStyles) as [Cause, (typeof causeStyles)[Cause]][]).map(
          ([stage, { hatch, variable }]) => (
            <pattern key={stage} id={`${id}-${stage}`} width={6} height={6} patternUnits="userSpaceOnUse">
              <rect width={6} height={6} fill={`var(${variable})`} />
              <path
                d={hatches[hatch]}
                stroke="var(--surface)"
                strokeWidth={1.2}
                fill={hatch === 'dots' ? 'var(--surface)' : 'none'}
              />
            </pattern>
          ),
        )}
      </defs>
      {runsOf(data, Math.max(1, most)).map((run) => (
        <RunRects key={run.from} run={run} id={id} lane={lane} />
      ))}
    </svg>
  );
}
