/** How far something is: a bar in the signal colour. @param value and most in the same unit */
export function Progress({
  value,
  most,
  label,
  className = 'w-full',
}: {
  value: number;
  most: number;
  label: string;
  className?: string;
}) {
  const share = most > 0 ? Math.min(1, Math.max(0, value / most)) : 0;
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(share * 100)}
      className={`h-2 bg-raised ${className}`}
    >
      <div className="h-full bg-signal" style={{ width: `${share * 100}%` }} />
    </div>
  );
}
