import { annotate } from '@/server/annotations';
import { answer, readBody } from '@/server/http';
import { annotationInput } from '@/server/validation';

/** What a person says of a result, and whether it counts. */
export function PUT(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => annotate((await params).id, await readBody(request, annotationInput)));
}
