'use client';
import { clsx } from 'clsx';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useMemo } from 'react';
import { useCommands } from '../shell/commands';

const tabs = [['/storage', 'Volumes'], ['/storage/ladder', 'Ladder'], ['/storage/planner', 'Planner'], ['/storage/copies', 'Card copies']] as const;

/** The pages of the storage section. */
export function StorageTabs() {
  const path = usePathname();
  const router = useRouter();
  useCommands(useMemo(() => tabs.map(([href, name]) => ({ id: `storage-${name}`, label: `Storage: ${name}`, group: 'Storage', run: () => router.push(href) })), [router]));
  return (
    <nav aria-label="Storage" className="mb-5 flex gap-6 border-b">
      {tabs.map(([href, name]) => {
        const here = href === '/storage' ? path === href || path.startsWith('/storage/volumes') || path.startsWith('/storage/trials') : path.startsWith(href);
        return <Link key={href} prefetch={false} href={href} aria-current={path === href ? 'page' : undefined} className={clsx('-mb-px border-b-2 pb-2 pt-0.5 text-sm', here ? 'border-signal-text font-semibold' : 'border-transparent text-muted hover:text-ink')}>{name}</Link>;
      })}
    </nav>
  );
}
