import type { ReactNode } from 'react';
import { MediaTabs } from '@/ui/media/MediaTabs';

export default function MediaLayout({ children }: { children: ReactNode }) {
  return (
    <>
      <MediaTabs />
      {children}
    </>
  );
}
