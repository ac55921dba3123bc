'use client';
import { Tabs } from '../parts/Tabs';

const tabs = [
  { href: '/storage', name: 'Volumes', also: ['/storage/volumes', '/storage/trials'] },
  { href: '/storage/ladder', name: 'Ladder' },
  { href: '/storage/planner', name: 'Planner' },
  { href: '/storage/copies', name: 'Card copies' },
];

/** The pages of the storage section. */
export function StorageTabs() {
  return <Tabs section="Storage" tabs={tabs} />;
}
