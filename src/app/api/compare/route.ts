import { compareSides } from '@/server/decide/comparisons';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** `?sides=t.<trial>,p.<plan>.<cell>` and, if need be, `&asked=<condition>` and `&test=<test>`. */
export const GET = route('GET /api/compare', ({ query }) =>
  compareSides((query.get('sides') ?? '').split(',').filter(Boolean), query.get('asked'), query.get('test')),
);
