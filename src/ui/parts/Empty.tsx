import type { ReactNode } from 'react';

/** What belongs here, and the one action that fills it. */
export function Empty({
  title,
  children,
  action,
}: {
  title: string;
  children: ReactNode;
  action?: ReactNode;
}) {
  return (
    <section className="border border-dashed border-edge p-8 text-center">
      <h2>{title}</h2>
      <p className="mx-auto mt-1 max-w-lg text-sm text-muted">{children}</p>
      {action && <div className="mt-4">{action}</div>}
    </section>
  );
}
