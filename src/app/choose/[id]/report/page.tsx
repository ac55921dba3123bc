import { page } from '@/server/platform/page';
import { readReport } from '@/server/decide/report';
import { ReportView } from '@/ui/choose/ReportView';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Report' };

export default async function ReportPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readReport(id),
    (report) => <ReportView key={id} report={report} />,
  );
}
