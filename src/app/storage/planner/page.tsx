import type { Metadata } from 'next';
import { cameraFormats } from '@/server/library/cameraFormats';
import { page } from '@/server/platform/page';
import { PlannerView } from '@/ui/storage/PlannerView';

export const metadata: Metadata = { title: 'Planner' };
export const dynamic = 'force-dynamic';

export default function PlannerPage() {
  return page(cameraFormats, (formats) => <PlannerView formats={formats} />);
}
