import { answer } from '@/server/http';
import { forgetDelivery } from '@/server/tasks';

export function DELETE(
  _request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  return answer(async () => forgetDelivery((await params).id));
}
