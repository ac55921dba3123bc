import { readBriefForm, requireBrief } from '@/server/decide/briefs';
import { page } from '@/server/platform/page';
import { BriefForm } from '@/ui/choose/BriefForm';

export const dynamic = 'force-dynamic';
export const metadata = { title: 'Change the brief' };

export default async function EditBriefPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    async () => ({ offer: await readBriefForm(), row: await requireBrief(id) }),
    ({ offer, row }) => (
      <div className="flex flex-col gap-5">
        <h1>What has to be decided?</h1>
        <BriefForm key={id} offer={offer} id={id} name={row.name} brief={row.document} />
      </div>
    ),
  );
}
