import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import * as schema from './schema';

export type Database = NodePgDatabase<typeof schema>;

/** The address of the database, set by the start script. */
export function databaseUrl(): string {
  const url = process.env.NAVVY_DATABASE_URL;
  if (!url) throw new Error('NAVVY_DATABASE_URL is not set. Start Navvy with ./navvy start or ./navvy demo.');
  return url;
}

interface Connection {
  readonly pool: pg.Pool;
  readonly db: Database;
}
const holder = globalThis as typeof globalThis & { navvyConnection?: Connection | undefined };

/** The process's connection pool. Idle connections that break are dropped quietly; the next query tells. */
export function connection(): Connection {
  if (!holder.navvyConnection) {
    const pool = new pg.Pool({ connectionString: databaseUrl(), max: 8, connectionTimeoutMillis: 4_000 });
    pool.on('error', () => undefined);
    holder.navvyConnection = { pool, db: drizzle(pool, { schema }) };
  }
  return holder.navvyConnection;
}

/** Ends the process's connections; the next query opens new ones. */
export async function closeConnection(): Promise<void> {
  const { navvyConnection } = holder;
  holder.navvyConnection = undefined;
  await navvyConnection?.pool.end();
}

export function database(): Database {
  return connection().db;
}

/** True for errors that mean the database cannot be reached, as against a wrong query. */
export function isDatabaseDown(error: unknown): boolean {
  for (let current: unknown = error, depth = 0; current && depth < 5; depth++) {
    const { code, message, cause, errors } = current as {
      code?: string;
      message?: string;
      cause?: unknown;
      errors?: unknown[];
    };
    if (code && /^(ECONNREFUSED|ECONNRESET|EPIPE|ENOTFOUND|ETIMEDOUT|57P0[123]|08\d{3})$/.test(code))
      return true;
    if (
      message &&
      /Connection terminated|timeout exceeded when trying to connect|connection timeout/i.test(message)
    )
      return true;
    current = cause ?? errors?.[0];
  }
  return false;
}

/**
 * What the database refused of what it was given: a value out of its bounds or form, or a reference to what is not there;
 * null for all other errors. Source: SQLSTATE classes 22 (data) and 23 (integrity).
 */
export function refusedValue(error: unknown): 'value' | 'reference' | null {
  for (let current: unknown = error, depth = 0; current && depth < 5; depth++) {
    const { code, cause } = current as { code?: unknown; cause?: unknown };
    if (code === '23503') return 'reference';
    if (typeof code === 'string' && /^2[23][0-9A-Z]{3}$/.test(code)) return 'value';
    current = cause;
  }
  return null;
}
