'use client';
import type { ListPart } from '@/server/trials/trialList';
import { Empty } from '../parts/Empty';
import { useLive } from '../shell/useLive';
import { TrialList } from '../trials/TrialList';
import { RenditionForm } from './RenditionForm';
import type { RenditionsPage } from '../pages';

/** Proxies and other renditions: a new batch, and those there were. */
export function RenditionsView({
  initial,
  list,
  wanted,
}: {
  initial: RenditionsPage;
  list: ListPart;
  wanted: readonly string[];
}) {
  const [page] = useLive(initial, 'GET /api/renditions', (event) => event.type === 'clips');
  return (
    <div className="flex flex-col gap-5">
      <h1>Proxies and other renditions</h1>
      <RenditionForm page={page} wanted={wanted} />
      <TrialList
        list={list}
        label="Batches"
        figures={['made']}
        fileName="navvy-renditions"
        empty={
          <Empty title="No renditions yet">
            A rendition is the same footage in another form. Every one is timed, and checked frame by frame
            against its source, before it joins the library.
          </Empty>
        }
      />
    </div>
  );
}
