import type { TrialStatus } from '@/db/kinds';
import { endTitles } from '../trialWords';

/** How something that did not come to its end ended, and what to do. @param title in place of the status's own @param further said after the outcome */
export function EndNote({
  of: { status, outcome, detail },
  title = endTitles[status],
  further = '',
}: {
  title?: string | undefined;
  further?: string;
  of: { readonly status: TrialStatus; readonly outcome: string | null; readonly detail: string | null };
}) {
  return (
    <section role="alert" className="border-l-4 border-signal bg-surface p-4">
      <h1>{title}</h1>
      <p className="mt-1">
        {outcome}
        {further}
      </p>
      {detail && (
        <details className="mt-2 text-sm text-muted">
          <summary>Detail</summary>
          <pre className="mt-1 overflow-auto text-xs">{detail}</pre>
        </details>
      )}
    </section>
  );
}
