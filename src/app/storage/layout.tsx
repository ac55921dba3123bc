import type { ReactNode } from 'react';
import { StorageTabs } from '@/ui/storage/StorageTabs';

export default function StorageLayout({ children }: { children: ReactNode }) {
  return (
    <>
      <StorageTabs />
      {children}
    </>
  );
}
