import { answer } from '@/server/http';
import { forgetGesture } from '@/server/timelineTrials';

export function DELETE(
  _request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  return answer(async () => forgetGesture((await params).id));
}
