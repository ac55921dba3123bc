'use client';
import { clsx } from 'clsx';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useMemo } from 'react';
import { useCommands } from '../keys/commands';

/** One page of a section, and the addresses below it that belong to it. */
export interface Tab {
  readonly href: string;
  readonly name: string;
  readonly also?: readonly string[];
}

/** The pages of a section. */
export function Tabs({ section, tabs }: { section: string; tabs: readonly Tab[] }) {
  const path = usePathname();
  const router = useRouter();
  useCommands(
    useMemo(
      () =>
        tabs.map(({ href, name }) => ({
          id: `${section}-${name}`,
          label: `${section}: ${name}`,
          group: section,
          run: () => router.push(href),
        })),
      [router, section, tabs],
    ),
  );
  return (
    <nav aria-label={section} className="mb-5 flex gap-6 border-b">
      {tabs.map(({ href, name, also = [] }) => {
        const here =
          path === href ||
          [href === tabs[0]?.href ? [] : href, ...also].flat().some((start) => path.startsWith(`${start}/`));
        return (
          <Link
            key={href}
            prefetch={false}
            href={href}
            aria-current={path === href ? 'page' : undefined}
            className={clsx(
              '-mb-px border-b-2 pb-2 pt-0.5 text-sm',
              here ? 'border-signal-text font-semibold' : 'border-transparent text-muted hover:text-ink',
            )}
          >
            {name}
          </Link>
        );
      })}
    </nav>
  );
}
