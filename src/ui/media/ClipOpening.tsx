'use client';
import { dateTime, milliseconds } from '@/core/format';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { kinds } from '@/core/kinds/kinds';
import { clipOpeningParts } from '@/core/tasks/opening';
import type { ClipPage } from '../pages';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { useSend } from '../useSend';
import { clipOpeningNames, perhapsWarmWords } from '../tasks/words';
import { ColumnHeads } from '../table/ColumnHeads';

/** How long the clip takes to open, wherever it lies, as it was measured last. */
export function ClipOpening({ page: { clip, renditions } }: { page: ClipPage }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const measure = async () => {
    const made = await send('POST /api/trials', {
      body: { kind: 'opening', clipId: clip.id, each: 'picture', lanes: 1 },
    });
    if (made) router.push(`${kinds.opening.page}/${made.id}`);
  };
  const measured = renditions.flatMap(({ opening, ...member }) => (opening ? [{ member, opening }] : []));
  return (
    <section aria-label="Opening" className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <h2 className="mr-auto">How long it takes to open</h2>
        <Button disabled={busy} onClick={() => void measure()}>
          Open and measure
        </Button>
      </div>
      <FormError message={error?.message} />
      {measured.length === 0 ? (
        <p className="text-sm text-muted">
          Not measured yet: from asking for the file, cold, until its first byte, its index and its first
          picture are there.
        </p>
      ) : (
        <table aria-label="Opening of this footage" className="w-full border bg-surface text-sm">
          <ColumnHeads
            names={['Clip', 'Volume', ...clipOpeningParts.map((part) => clipOpeningNames[part]), 'Measured']}
          />
          <tbody>
            {measured.map(({ member, opening }) => (
              <tr key={member.id} className="border-b last:border-b-0">
                <td className="max-w-64 break-all px-3 py-1.5">
                  {member.id === clip.id ? <b className="font-semibold">this clip</b> : member.path}
                </td>
                <td className="px-3 py-1.5">
                  {member.volumeName} {member.simulated && <Simulated />}
                </td>
                {clipOpeningParts.map((part) => (
                  <td key={part} className="figure px-3 py-1.5">
                    {milliseconds(opening[part])}
                  </td>
                ))}
                <td className="px-3 py-1.5">
                  <Link
                    prefetch={false}
                    className="underline"
                    href={`${kinds.opening.page}/${opening.trialId}`}
                  >
                    {dateTime(opening.at)}
                  </Link>
                  {opening.perhapsWarm && <span className="block text-signal-text">{perhapsWarmWords}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
