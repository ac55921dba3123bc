/** How many of the most there were, filled where all went well, dashed where not. */
export function StepBar({
  share,
  clean,
}: {
  /** Of the whole width, 0 to 1. */
  share: number;
  clean: boolean;
}) {
  return (
    <svg aria-hidden width="100%" height="12" preserveAspectRatio="none">
      <rect
        width={`${100 * share}%`}
        height="12"
        fill={clean ? 'var(--slot)' : 'none'}
        stroke={clean ? 'var(--slot)' : 'var(--signal-text)'}
        strokeDasharray={clean ? undefined : '3 2'}
      />
    </svg>
  );
}
