import type { Metadata } from 'next';
import { page } from '@/server/platform/page';
import { readEditor } from '@/server/timelines/editor';
import { EditorView } from '@/ui/timeline/EditorView';

export const metadata: Metadata = { title: 'Timeline' };
export const dynamic = 'force-dynamic';

export default async function TimelinePage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return page(
    () => readEditor(id),
    (data) => <EditorView key={id} {...data} />,
  );
}
