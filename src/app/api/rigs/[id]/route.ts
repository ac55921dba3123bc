import { forgetRig } from '@/server/bundles';
import { answer } from '@/server/http';

export function DELETE(
  _request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  return answer(async () => forgetRig((await params).id));
}
