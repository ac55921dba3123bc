'use client';
import { Tabs } from '../parts/Tabs';

const tabs = [
  { href: '/timelines', name: 'Timelines' },
  { href: '/timelines/tests', name: 'Scrub and load' },
];

/** The pages of the timelines section. */
export function TimelineTabs() {
  return <Tabs section="Timelines" tabs={tabs} />;
}
