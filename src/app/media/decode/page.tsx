import { readDecodePage } from '@/server/decode';
import { page } from '@/server/page';
import { DecodeView } from '@/ui/decode/DecodeView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode rates' };

export default function DecodePageRoute() {
  return page(readDecodePage, (data) => <DecodeView initial={data} />);
}
