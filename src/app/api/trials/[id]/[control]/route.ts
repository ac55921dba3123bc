import { answer } from '@/server/http';
import { controlTrial } from '@/server/trialControls';

/** `cancel`, `pause` or `resume`. */
export function POST(
  _request: Request,
  { params }: { params: Promise<{ id: string; control: string }> },
): Promise<Response> {
  return answer(async () => {
    const { id, control } = await params;
    return controlTrial(id, control);
  });
}
