import { answer } from '@/server/http';
import { removePrerender } from '@/server/prerenders';

/** Removes a rendered part with its file. */
export function DELETE(
  _request: Request,
  { params }: { params: Promise<{ id: string; clipId: string }> },
): Promise<Response> {
  return answer(async () => {
    const { id, clipId } = await params;
    await removePrerender(id, clipId);
  });
}
