'use client';
import { Tabs } from '../parts/Tabs';

const tabs = [
  { href: '/trials', name: 'Single trials' },
  { href: '/trials/tasks', name: 'Tasks' },
  { href: '/trials/plans', name: 'Series and matrices' },
];

/** The pages of the trials section. */
export function TrialTabs() {
  return <Tabs section="Trials" tabs={tabs} />;
}
