import 'server-only';
import { notFound } from 'next/navigation';
import type { ReactNode } from 'react';
import { isDatabaseDown } from '@/db/client';
import { Problem } from '@/ui/parts/Problem';
import { RequestError } from './errors';
import { refusals } from './words';
import { readStatus, type Status } from './rig';

/** Status for the first paint; null when the database is away. */
export async function statusOrNull(): Promise<Status | null> {
  return readStatus().catch((error: unknown) => {
    if (isDatabaseDown(error)) return null;
    throw error;
  });
}

/** Loads a page's data and draws it; a database that is away or a thing that is gone becomes a message. */
export async function page<Data>(
  load: () => Promise<Data>,
  draw: (data: Data) => ReactNode,
): Promise<ReactNode> {
  let data: Data;
  try {
    data = await load();
  } catch (error) {
    if (error instanceof RequestError && error.status === 404) notFound();
    if (isDatabaseDown(error))
      return <Problem title="The database is away" message={refusals['database-down'][1]} retry />;
    throw error;
  }
  return draw(data);
}
