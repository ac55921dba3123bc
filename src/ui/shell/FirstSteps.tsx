'use client';
import { X } from 'lucide-react';
import { usePathname } from 'next/navigation';
import { useState } from 'react';
import { firstStepsCookie } from './cookies';
import { LinkButton } from '../parts/Button';
import { useStatus } from './status';

const steps = ['folder', 'clips', 'job', 'measuring', 'map'] as const;
/** Pages that somebody lands on who has no map of an own job yet. */
const landing = /^\/(storage|media|trials|choose|choose\/(?!first|new)[^/]+)$/;
/** The way from an own folder of clips to an own map, on the pages that somebody new lands on. It comes with the page, so that nothing moves once the page is alive. */
export function FirstSteps({ isPutAway }: { isPutAway: boolean }) {
  const { status } = useStatus();
  const path = usePathname();
  const [gone, setGone] = useState(isPutAway);
  if (gone || !status || status.ownBriefs > 0 || !landing.test(path)) return null;
  return (
    <aside
      aria-label="Your first map"
      data-no-print
      className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2 border border-dashed border-edge px-3 py-2 text-sm"
    >
      <span className="font-semibold">From your own clips to your own map</span>
      <ol className="flex flex-wrap gap-x-3 text-muted">
        {steps.map((step, at) => (
          <li key={step}>
            <span className="figure mr-1 text-ink">{at + 1}</span>
            {step}
          </li>
        ))}
      </ol>
      <LinkButton look="main" href="/choose/first">
        Start with a folder
      </LinkButton>
      <button
        type="button"
        aria-label="Hide this hint"
        title="Hide this hint"
        className="ml-auto flex size-6 items-center justify-center text-muted hover:text-ink"
        onClick={() => {
          document.cookie = `${firstStepsCookie}=hidden; path=/; max-age=31536000; samesite=strict`;
          setGone(true);
        }}
      >
        <X aria-hidden className="size-4" />
      </button>
    </aside>
  );
}
