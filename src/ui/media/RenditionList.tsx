'use client';
import { megabits, size } from '@/core/format';
import type { ClipAction } from '@/core/asked/library';
import Link from 'next/link';
import { formatLabel } from '@/core/media/format';
import { Button, LinkButton } from '../parts/Button';
import { FormError } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { useSend } from '../useSend';
import type { ClipPage } from '../pages';
import { checkSentence } from '@/core/sentences/renditions';
import { ColumnHeads } from '../table/ColumnHeads';

/** The forms of one footage: original, renditions and copies. */
export function RenditionList({
  page: { clip, footage, renditions, made },
  reload,
}: {
  page: ClipPage;
  reload: () => Promise<void>;
}) {
  const { busy, error, send } = useSend();
  const act = async (action: ClipAction) => {
    if (await send('POST /api/clips/actions', { body: { action, clipIds: [clip.id] } })) await reload();
  };
  return (
    <section aria-label="Renditions">
      <div className="mb-2 flex items-center gap-2">
        <h2 className="mr-auto">
          Footage {footage?.name ?? ''}:{' '}
          {renditions.length === 1 ? 'this clip only' : `${renditions.length} clips`}
          {footage?.byHand && <span className="ml-2 text-sm font-normal text-muted">grouped by hand</span>}
        </h2>
        {clip.status === 'ready' && (
          <LinkButton href={`/media/renditions?clips=${clip.id}`}>Make a rendition</LinkButton>
        )}
        {renditions.length > 1 && (
          <Button
            disabled={busy}
            onClick={() => {
              void act('take-out');
            }}
          >
            Remove this clip
          </Button>
        )}
        {clip.footageHand !== null && (
          <Button
            look="quiet"
            disabled={busy}
            onClick={() => {
              void act('group-automatically');
            }}
          >
            Group automatically
          </Button>
        )}
      </div>
      <FormError message={error?.message} />
      <Members clip={clip} members={renditions} />
      {made?.frameCheck && (
        <p className="mt-1 text-sm text-muted">
          Made by Navvy (
          <Link prefetch={false} className="underline" href={`/media/renditions/${made.trialId}`}>
            its batch
          </Link>
          ). {checkSentence(made.frameCheck)}
        </p>
      )}
    </section>
  );
}

/** Each with where it lies and what it is. */
function Members({ clip, members }: { clip: ClipPage['clip']; members: ClipPage['renditions'] }) {
  return (
    <table aria-label="Clips of this footage" className="w-full border bg-surface text-sm">
      <ColumnHeads names={['', 'Clip', 'Volume', 'Format', 'Mean Mb/s', 'Size']} figuresFrom={4} />
      <tbody>
        {members.map((member) => (
          <tr key={member.id} className="group/row border-b last:border-b-0">
            <td className="whitespace-nowrap px-3 py-1.5">{member.role}</td>
            <td className="max-w-64 px-3 py-1.5">
              {member.id === clip.id ? (
                <b className="font-semibold">
                  <MiddleName name={member.path} />
                </b>
              ) : (
                <Link
                  prefetch={false}
                  href={`/media/clips/${member.id}`}
                  className="underline decoration-edge underline-offset-4"
                >
                  <MiddleName name={member.path} />
                </Link>
              )}
            </td>
            <td className="px-3 py-1.5">
              {member.volumeName}
              {member.simulated && (
                <>
                  {' '}
                  <Simulated />
                </>
              )}
            </td>
            <td className="px-3 py-1.5">
              {member.format ? formatLabel(member.format) : '–'}
              {member.status !== 'ready' && <span className="text-signal-text"> {member.status}</span>}
            </td>
            <td className="figure px-3 py-1.5 text-right">{megabits(member.meanBitsPerSecond)}</td>
            <td className="figure whitespace-nowrap px-3 py-1.5 text-right">{size(member.sizeBytes)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
