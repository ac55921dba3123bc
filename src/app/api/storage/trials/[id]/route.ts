import { answer } from '@/server/http';
import { deleteStorageTrial, readStorageTrialPage } from '@/server/storage';

type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readStorageTrialPage((await params).id));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteStorageTrial((await params).id));
}
