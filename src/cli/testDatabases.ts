import pg from 'pg';

/** Makes a database as good as new. */
export async function emptyDatabase(url: string): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query(
    'drop schema if exists drizzle cascade; drop schema if exists pgboss cascade; drop schema public cascade; create schema public',
  );
  await client.end();
}
