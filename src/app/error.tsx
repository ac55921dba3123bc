'use client';
import { Problem } from '@/ui/parts/Problem';

export default function PageError() {
  return (
    <Problem
      title="This page failed"
      message="The page could not be loaded. Try again; if it keeps failing, the log folder named in the terminal has the detail."
      retry
    />
  );
}
