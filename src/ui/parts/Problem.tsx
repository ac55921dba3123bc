'use client';
import { TriangleAlert } from 'lucide-react';
import { Button } from './Button';

/** A page-sized message: what happened and what to do. */
export function Problem({
  title,
  message,
  retry = false,
}: {
  title: string;
  message: string;
  retry?: boolean;
}) {
  return (
    <section role="alert" className="mx-auto mt-16 max-w-xl border-l-4 border-signal bg-surface p-6">
      <h1 className="flex items-center gap-2">
        <TriangleAlert aria-hidden className="size-5 text-signal-text" />
        {title}
      </h1>
      <p className="mt-2 text-muted">{message}</p>
      {retry && (
        <Button
          className="mt-4"
          onClick={() => {
            window.location.reload();
          }}
        >
          Try again
        </Button>
      )}
    </section>
  );
}
