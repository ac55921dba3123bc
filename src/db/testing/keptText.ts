import type pg from 'pg';

/** All that a database keeps, as a short text of its own for each state. @param without tables that processes tell of themselves in */
export async function keptText(
  database: pg.Client | pg.Pool,
  without: readonly string[] = [],
): Promise<string> {
  const { rows: tables } = await database.query<{ name: string }>(
    "select tablename as name from pg_tables where schemaname = 'public'",
  );
  const hashes = tables
    .filter(({ name }) => !without.includes(name))
    .map(
      ({ name }) =>
        `select '${name} ' || md5(coalesce(string_agg(t::text, '' order by t::text), '')) as hash from "${name}" t`,
    );
  const { rows } = await database.query<{ hash: string }>(hashes.join(' union all '));
  return rows
    .map(({ hash }) => hash)
    .toSorted()
    .join('\n');
}
