import type { Metadata } from 'next';
import { plainName } from '@/core/simulated';
import { volumesOfRig } from '@/server/library/library';
import { page } from '@/server/platform/page';
import { currentRigId } from '@/server/platform/rig';
import { FirstRun } from '@/ui/choose/FirstRun';

export const metadata: Metadata = { title: 'From a folder to a decision' };
export const dynamic = 'force-dynamic';

export default async function FirstRunPage() {
  return page(
    async () => ({ volumes: await volumesOfRig(), rigId: await currentRigId() }),
    ({ volumes, rigId }) => (
      <FirstRun
        volumes={volumes.map(({ id, name, standIn }) => ({ id, name: plainName(name, standIn !== null) }))}
        rigId={rigId}
      />
    ),
  );
}
