import type { Grade } from '@/core/playback/grade';

/** Stones laid out of four, by grade: a shape that reads without colour. */
const laid: Record<Grade, number> = { solid: 4, workable: 3, rough: 2, stalled: 0 };

/** A grade as a course of stones and its word. */
export function GradeMark({ grade, large = false }: { grade: Grade; large?: boolean }) {
  const width = large ? 44 : 26;
  return (
    <span className="inline-flex items-center gap-2 whitespace-nowrap">
      <svg aria-hidden width={width} height={width / 3.4} viewBox="0 0 34 10">
        {[0, 1, 2, 3].map((stone) => (
          <rect
            key={stone}
            x={stone * 8.6 + 0.7}
            y={0.7}
            width={6.6}
            height={8.6}
            fill={stone < laid[grade] ? 'currentColor' : 'none'}
            stroke={stone < laid[grade] ? 'currentColor' : 'var(--signal-text)'}
            strokeWidth={1.4}
            strokeDasharray={stone < laid[grade] ? undefined : '2 1.6'}
          />
        ))}
      </svg>
      <span className={large ? 'text-lg font-semibold' : ''}>{grade}</span>
    </span>
  );
}
