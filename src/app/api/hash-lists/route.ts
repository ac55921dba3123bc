import { takeHashList } from '@/server/library/hashLists';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** Reads a hash list and tells what is in it, and where what it names may lie; keeps it unless `store` is false. */
export const POST = route('POST /api/hash-lists', ({ body }) => takeHashList(body));
