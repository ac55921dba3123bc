import type { Metadata } from 'next';
import Link from 'next/link';
import { taskPageKinds, waitKinds } from '@/core/kinds/kinds';
import { page } from '@/server/platform/page';
import { readTaskChoices } from '@/server/timelines/tasks';
import { readOwnList } from '@/server/trials/trialList';
import { Empty } from '@/ui/parts/Empty';
import { TaskForm } from '@/ui/tasks/TaskForm';
import { TrialList } from '@/ui/trials/TrialList';

export const metadata: Metadata = { title: 'Tasks' };
export const dynamic = 'force-dynamic';

export default async function TasksPage({
  searchParams,
}: {
  searchParams: Promise<{
    task?: string;
    timeline?: string;
    clip?: string;
    volume?: string;
    content?: string;
    from?: string;
    to?: string;
  }>;
}) {
  const { task, timeline, clip, volume, content, from = '', to = '' } = await searchParams;
  return page(
    () => Promise.all([readTaskChoices({ id: clip, contentHash: content }), readOwnList(taskPageKinds)]),
    ([choices, list]) => (
      <div className="flex flex-col gap-5">
        <h1>How long is the wait, and what holds it back?</h1>
        {choices.clip ? (
          <TaskForm
            choices={choices}
            wanted={{
              task: waitKinds.find((kind) => kind === task) ?? 'export',
              what: timeline
                ? { kind: 'timeline', id: timeline }
                : volume
                  ? { kind: 'volume', id: volume }
                  : null,
              from,
              to,
            }}
          />
        ) : (
          <Empty
            title="There is nothing to work on"
            action={
              <Link prefetch={false} className="underline" href="/storage">
                Add a volume with media
              </Link>
            }
          >
            A task reads clips from one volume and writes what it makes to another, or the same; opening only
            reads.
          </Empty>
        )}
        <TrialList
          list={list}
          label="Tasks"
          figures={['taskTime', 'taskRate']}
          fileName="navvy-tasks"
          empty={
            <Empty title="No task yet">
              A task is timed from its start to the last byte on the volume, or until all that is opened is
              there, and says what held it back.
            </Empty>
          }
        />
      </div>
    ),
  );
}
