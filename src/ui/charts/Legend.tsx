import { causes as allCauses, stages, type Cause } from '@/core/playback/slots';
import { causeStyles } from './causes';

/** The hatching of a cause as an SVG swatch that matches the canvas. */
export function CauseSwatch({ stage, plain = false }: { stage: Cause; plain?: boolean }) {
  const { variable, hatch } = causeStyles[stage];
  const id = `hatch-${stage}`;
  return (
    <svg aria-hidden width="16" height="14" className="inline-block align-[-2px]">
      <defs>
        <pattern id={id} width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill={`var(${variable})`} />
          {hatch === 'level' && <path d="M0 3h6" stroke="var(--surface)" strokeWidth="1.6" />}
          {(hatch === 'rising' || hatch === 'crossed') && (
            <path d="M0 6L6 0M-3 3L3 -3M3 9L9 3" stroke="var(--surface)" strokeWidth="1.6" />
          )}
          {hatch === 'crossed' && (
            <path d="M0 0L6 6M-3 3L3 9M3 -3L9 3" stroke="var(--surface)" strokeWidth="1.6" />
          )}
          {hatch === 'broken' && (
            <path d="M0 4.5L3 1.5L6 4.5" stroke="var(--surface)" strokeWidth="1.6" fill="none" />
          )}
          {hatch === 'dots' && <circle cx="3" cy="3" r="1.3" fill="var(--surface)" />}
        </pattern>
      </defs>
      <rect width="16" height="14" fill={plain ? `var(${variable})` : `url(#${id})`} />
    </svg>
  );
}

/** What the ribbon's cells mean. */
export function RibbonLegend({
  causes = true,
  doubtful = false,
  wrong = false,
  sound = false,
}: {
  causes?: boolean;
  /** some pictures that were shown are not to be trusted */ doubtful?: boolean;
  /** some showed a wrong frame */ wrong?: boolean;
  /** sound went along */ sound?: boolean;
}) {
  const cell = (height: number, colour: string) => (
    <svg aria-hidden width="10" height="14" className="inline-block align-[-2px]">
      <rect y={14 - height} width="10" height={height} fill={colour} />
    </svg>
  );
  return (
    <ul aria-label="Legend of the ribbon" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      <li>{cell(4, 'var(--slot)')} shown</li>
      <li>{cell(8, 'var(--muted)')} shown late</li>
      {wrong && (
        <li>
          <svg aria-hidden width="10" height="14" className="inline-block align-[-2px]">
            <rect width="10" height="14" fill="var(--ink)" />
            <rect x="1" y="1" width="8" height="12" fill="none" stroke="var(--surface)" strokeWidth="1.5" />
          </svg>{' '}
          showed a wrong frame
        </li>
      )}
      {doubtful && (
        <li>
          <svg aria-hidden width="10" height="14" className="inline-block align-[-2px]">
            <rect y="6" width="10" height="4" fill="var(--cause-media)" />
            <rect y="10" width="10" height="4" fill="var(--slot)" />
          </svg>{' '}
          on top: concealed, or built on a missing frame
        </li>
      )}
      {sound && (
        <li>
          <svg aria-hidden width="22" height="14" className="inline-block align-[-2px]">
            <rect y="11" width="10" height="3" fill="var(--slot)" />
            <rect x="12" y="5" width="10" height="9" fill="var(--ink)" />
          </svg>{' '}
          bottom edge: sound in time, sound not ready
        </li>
      )}
      {causes ? (
        allCauses
          .map((cause) => (
            <li key={cause}>
              <CauseSwatch stage={cause} /> dropped, {causeStyles[cause].word}
            </li>
          ))
          .concat(<li key="joint">two in one cell: late only together</li>)
      ) : (
        <li>{cell(14, 'var(--signal-text)')} dropped (cause named at the end)</li>
      )}
    </ul>
  );
}

/** What the river's layers mean. */
export function RiverLegend({ sound = false }: { /** sound went along */ sound?: boolean }) {
  return (
    <ul aria-label="Legend of the stage river" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      {stages.map((stage) => (
        <li key={stage}>
          <CauseSwatch stage={stage} plain /> {causeStyles[stage].word}
          {stage === 'present' && ' (past due)'}
        </li>
      ))}
      {sound && <li>fainter: the stage’s work on sound, at the same time</li>}
      <li>Stages run at the same time: one that alone stands above the line cannot keep up.</li>
    </ul>
  );
}
