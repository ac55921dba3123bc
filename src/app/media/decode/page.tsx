import { decodeKinds } from '@/core/kinds/kinds';
import { readDecodePage } from '@/server/library/decode';
import { page } from '@/server/platform/page';
import { readOwnList } from '@/server/trials/trialList';
import { DecodeView } from '@/ui/decode/DecodeView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode rates' };

export default function DecodePageRoute() {
  return page(
    () => Promise.all([readDecodePage(), readOwnList(decodeKinds)]),
    ([data, list]) => <DecodeView initial={data} list={list} />,
  );
}
