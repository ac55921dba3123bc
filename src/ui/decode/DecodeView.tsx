'use client';
import Link from 'next/link';
import type { ListPart } from '@/server/trials/trialList';
import { Empty } from '../parts/Empty';
import { useLive } from '../shell/useLive';
import { TrialList } from '../trials/TrialList';
import { CompareFormats } from './CompareFormats';
import { WaitingTrials } from './WaitingTrials';
import { isDecodeNews } from './words';
import type { DecodePage } from '../pages';

/** How fast each format decodes on this rig, alone and from memory. */
export function DecodeView({ initial, list }: { initial: DecodePage; list: ListPart }) {
  const [{ rates, waiting }] = useLive(initial, 'GET /api/decode/rates', isDecodeNews);
  return (
    <div className="flex flex-col gap-5">
      <h1>How fast each format decodes here, alone and from memory</h1>
      <WaitingTrials waiting={waiting} />
      <CompareFormats trials={rates} />
      <TrialList
        list={list}
        label="Decode trials"
        fileName="navvy-decode-trials"
        empty={
          <Empty
            title="No decode trial yet"
            action={
              <Link prefetch={false} className="underline" href="/media">
                Choose clips and measure their decode rates
              </Link>
            }
          >
            A decode trial reads a clip’s packets into memory and decodes them as fast as it goes: pinned to
            one core, then on all. Storage has no part in it.
          </Empty>
        }
      />
    </div>
  );
}
