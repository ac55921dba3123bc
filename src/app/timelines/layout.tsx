import type { ReactNode } from 'react';
import { TimelineTabs } from '@/ui/timeline/TimelineTabs';

export default function TimelinesLayout({ children }: { children: ReactNode }) {
  return (
    <>
      <TimelineTabs />
      {children}
    </>
  );
}
