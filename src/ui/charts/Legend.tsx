import type { Stage } from '@/core/playback/slots';
import { causeStyles } from './causes';

/** The hatching of a cause as an SVG swatch that matches the canvas. */
export function CauseSwatch({ stage, plain = false }: { stage: Stage; plain?: boolean }) {
  const { variable, hatch } = causeStyles[stage];
  const id = `hatch-${stage}`;
  return (
    <svg aria-hidden width="16" height="14" className="inline-block align-[-2px]">
      <defs>
        <pattern id={id} width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill={`var(${variable})`} />
          {hatch === 'level' && <path d="M0 3h6" stroke="var(--surface)" strokeWidth="1.6" />}
          {(hatch === 'rising' || hatch === 'crossed') && <path d="M0 6L6 0M-3 3L3 -3M3 9L9 3" stroke="var(--surface)" strokeWidth="1.6" />}
          {hatch === 'crossed' && <path d="M0 0L6 6M-3 3L3 9M3 -3L9 3" stroke="var(--surface)" strokeWidth="1.6" />}
          {hatch === 'dots' && <circle cx="3" cy="3" r="1.3" fill="var(--surface)" />}
        </pattern>
      </defs>
      <rect width="16" height="14" fill={plain ? `var(${variable})` : `url(#${id})`} />
    </svg>
  );
}

/** What the ribbon's cells mean. */
export function RibbonLegend({ causes = true }: { causes?: boolean }) {
  const cell = (height: number, colour: string) => <svg aria-hidden width="10" height="14" className="inline-block align-[-2px]"><rect y={14 - height} width="10" height={height} fill={colour} /></svg>;
  return (
    <ul aria-label="Legend of the ribbon" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      <li>{cell(4, 'var(--slot)')} shown</li>
      <li>{cell(8, 'var(--muted)')} shown late</li>
      {causes
        ? (Object.keys(causeStyles) as Stage[]).map((stage) => <li key={stage}><CauseSwatch stage={stage} /> dropped, {causeStyles[stage].word}</li>).concat(<li key="joint">two in one cell: late only together</li>)
        : <li>{cell(14, 'var(--signal-text)')} dropped (cause named at the end)</li>}
    </ul>
  );
}

/** What the river's layers mean. */
export function RiverLegend() {
  return (
    <ul aria-label="Legend of the stage river" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      {(Object.keys(causeStyles) as Stage[]).map((stage) => <li key={stage}><CauseSwatch stage={stage} plain /> {causeStyles[stage].word}{stage === 'present' && ' (past due)'}</li>)}
      <li>Stages run at the same time: one that alone stands above the line cannot keep up.</li>
    </ul>
  );
}
