import type { ReactNode } from 'react';
import { TrialTabs } from '@/ui/trials/TrialTabs';

export default function TrialsLayout({ children }: { children: ReactNode }) {
  return (
    <>
      <TrialTabs />
      {children}
    </>
  );
}
