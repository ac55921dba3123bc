export const dynamic = 'force-dynamic';

/** Answers once the server can serve; needs no database. */
export function GET(): Response {
  return Response.json({ ok: true });
}
