import { count, milliseconds } from '@/core/format';
import type { SelfCheckResult } from '@/core/kinds/shared/played';

/** What the self-check says: whether this rig's measurements can be trusted, and why. */
export function SelfCheckReport({ result }: { result: SelfCheckResult }) {
  const { trusted, reasons, expected, found, jitterMs } = result;
  const matched = expected.filter(({ slot, cause }) =>
    found.some((drop) => drop.slot === slot && drop.cause === cause),
  );
  const right = matched.length;
  const perStage = [...new Set(expected.map(({ cause }) => cause))].map(
    (stage) =>
      `${stage} ${matched.filter(({ cause }) => cause === stage).length} of ${expected.filter(({ cause }) => cause === stage).length}`,
  );
  return (
    <section
      aria-label="Self-check"
      className="border-l-4 bg-surface p-4"
      style={{ borderColor: trusted ? 'var(--slot)' : 'var(--signal)' }}
    >
      <h2 className="text-lg">
        {trusted
          ? 'Measurements on this rig can be trusted'
          : 'Measurements on this rig cannot be trusted as it is now'}
      </h2>
      {reasons.length > 0 && (
        <ul className="mt-1 list-disc pl-5">
          {reasons.map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
        </ul>
      )}
      <p className="mt-1 text-sm text-muted">
        {count(right)} of {count(expected.length)} injected drops were found in the right slot with the right
        cause ({perStage.join(', ')}); {count(found.length)} drops were found in all. The timer woke{' '}
        {milliseconds(jitterMs.p50)} late at the median, {milliseconds(jitterMs.p95)} at p95,{' '}
        {milliseconds(jitterMs.p99)} at p99, {milliseconds(jitterMs.max)} at most.
      </p>
    </section>
  );
}
