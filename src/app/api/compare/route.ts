import { compareSides } from '@/server/comparisons';
import { answer } from '@/server/http';

export const dynamic = 'force-dynamic';

/** `?sides=t.<trial>,p.<plan>.<cell>` and, if need be, `&asked=<condition>` and `&test=<test>`. */
export function GET(request: Request): Promise<Response> {
  const { searchParams } = new URL(request.url);
  return answer(() =>
    compareSides(
      (searchParams.get('sides') ?? '').split(',').filter(Boolean),
      searchParams.get('asked'),
      searchParams.get('test'),
    ),
  );
}
