import type { Metadata } from 'next';
import Link from 'next/link';
import { taskKinds } from '@/core/kinds/kinds';
import { page } from '@/server/page';
import { readTaskChoices } from '@/server/tasks';
import { readOwnList } from '@/server/trialList';
import { Empty } from '@/ui/parts/Empty';
import { ExportForm } from '@/ui/tasks/ExportForm';
import { TrialList } from '@/ui/trials/TrialList';

export const metadata: Metadata = { title: 'Tasks' };
export const dynamic = 'force-dynamic';

export default async function TasksPage({
  searchParams,
}: {
  searchParams: Promise<{ timeline?: string; clip?: string }>;
}) {
  const { timeline, clip } = await searchParams;
  return page(
    () => Promise.all([readTaskChoices(), readOwnList(taskKinds)]),
    ([choices, list]) => (
      <div className="flex flex-col gap-5">
        <h1>How long is the wait, and what holds it back?</h1>
        {choices.volumes.length > 0 && choices.clips.length > 0 ? (
          <ExportForm choices={choices} wanted={timeline ? `t:${timeline}` : clip ? `c:${clip}` : null} />
        ) : (
          <Empty
            title="There is nothing to export, or nowhere to write it"
            action={
              <Link prefetch={false} className="underline" href="/storage">
                Add a volume with media that may be written to
              </Link>
            }
          >
            A task reads clips from one volume and writes what it makes to another, or the same.
          </Empty>
        )}
        <TrialList
          list={list}
          label="Tasks"
          figures={['taskTime', 'taskRate']}
          fileName="navvy-tasks"
          empty={
            <Empty title="No task yet">
              An export is timed from its start to the last byte on the volume, and says which stage held it
              back.
            </Empty>
          }
        />
      </div>
    ),
  );
}
