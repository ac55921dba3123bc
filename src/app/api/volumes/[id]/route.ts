import { answer } from '@/server/http';
import { deleteVolume } from '@/server/library';

export function DELETE(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => deleteVolume((await params).id));
}
