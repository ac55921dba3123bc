'use client';
import { count } from '@/core/format';
import { clsx } from 'clsx';
import { Keyboard, Search, SunMoon } from 'lucide-react';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useTheme } from 'next-themes';
import type { Status } from '@/server/platform/rig';
import { useStatus } from './status';

/** Sections in the order of work, with what each has or lacks for the next. */
export const sections = [
  {
    href: '/rig',
    name: 'Rig',
    key: 'Shift+R',
    state: (status: Status) =>
      ({
        never: 'not self-checked yet',
        trusted: 'self-check passed',
        'not trusted': 'self-check not passed',
      })[status.selfCheck],
    lacks: (status: Status) => status.selfCheck !== 'trusted',
  },
  {
    href: '/storage',
    name: 'Storage',
    key: 'Shift+S',
    state: (status: Status) => (status.volumes === 0 ? 'add a volume' : plural(status.volumes, 'volume')),
    lacks: (status: Status) => status.volumes === 0,
  },
  {
    href: '/media',
    name: 'Media',
    key: 'Shift+M',
    state: (status: Status) => (status.clips === 0 ? 'no clips yet' : plural(status.clips, 'clip')),
    lacks: (status: Status) => status.clips === 0,
  },
  {
    href: '/timelines',
    name: 'Timelines',
    key: 'Shift+E',
    state: (status: Status) => (status.timelines === 0 ? 'none yet' : plural(status.timelines, 'timeline')),
    lacks: () => false,
  },
  {
    href: '/trials',
    name: 'Trials',
    key: 'Shift+T',
    state: (status: Status) =>
      status.running ? 'one running' : status.queued > 0 ? `${count(status.queued)} waiting` : 'ready',
    lacks: () => false,
  },
  {
    href: '/compare',
    name: 'Compare',
    key: 'Shift+C',
    state: (status: Status) => (status.results === 0 ? 'no result yet' : plural(status.results, 'result')),
    lacks: () => false,
  },
  {
    href: '/choose',
    name: 'Choose',
    key: 'Shift+D',
    state: (status: Status) => (status.briefs === 0 ? 'no brief yet' : plural(status.briefs, 'brief')),
    lacks: () => false,
  },
] as const;

function plural(value: number, noun: string): string {
  return `${count(value)} ${noun}${value === 1 ? '' : 's'}`;
}

export function Sections({ onPalette, onKeys }: { onPalette: () => void; onKeys: () => void }) {
  const { status } = useStatus();
  const path = usePathname();
  const { theme, setTheme } = useTheme();
  const tool = 'flex w-full items-center gap-2 px-4 py-1.5 text-left text-sm text-muted hover:text-ink';
  return (
    <nav aria-label="Sections" className="flex w-44 shrink-0 flex-col border-r bg-surface pb-3">
      <ol className="pt-3">
        {sections.map(({ href, name, state, lacks }) => {
          const here = path === href || path.startsWith(`${href}/`);
          return (
            <li key={href}>
              <Link
                prefetch={false}
                href={href}
                aria-current={here ? 'page' : undefined}
                className={clsx(
                  'relative block border-l-4 py-2.5 pl-3 pr-2',
                  here ? 'border-signal bg-raised' : 'border-transparent hover:bg-raised',
                )}
              >
                <span className={clsx('block text-[15px]', here && 'font-semibold')}>{name}</span>
                {status && (
                  <span className={clsx('block text-xs', lacks(status) ? 'text-signal-text' : 'text-muted')}>
                    {state(status)}
                  </span>
                )}
              </Link>
            </li>
          );
        })}
      </ol>
      <div className="mt-auto">
        <button type="button" className={tool} onClick={onPalette}>
          <Search aria-hidden className="size-4" />
          Actions <span className="figure ml-auto text-xs">Ctrl K</span>
        </button>
        <button type="button" className={tool} onClick={onKeys}>
          <Keyboard aria-hidden className="size-4" />
          Keys <span className="figure ml-auto text-xs">?</span>
        </button>
        <button type="button" className={tool} onClick={() => setTheme(theme === 'light' ? 'dark' : 'light')}>
          <SunMoon aria-hidden className="size-4" />
          Light or dark
        </button>
      </div>
    </nav>
  );
}
