'use client';
import { Tabs } from '../parts/Tabs';

const tabs = [
  { href: '/media', name: 'Clips', also: ['/media/clips'] },
  { href: '/media/decode', name: 'Decode rates' },
  { href: '/media/support', name: 'Decode support' },
  { href: '/media/renditions', name: 'Renditions' },
];

/** The pages of the media section. */
export function MediaTabs() {
  return <Tabs section="Media" tabs={tabs} />;
}
