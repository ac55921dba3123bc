import { readSupportPage } from '@/server/library/decode';
import { page } from '@/server/platform/page';
import { SupportView } from '@/ui/decode/SupportView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Decode support' };

export default function SupportPageRoute() {
  return page(readSupportPage, (data) => <SupportView initial={data} />);
}
