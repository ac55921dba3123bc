import pg from 'pg';
import { connection, databaseUrl } from './client';

const channel = 'navvy';

/** Tells a text to every process that listens. It is news, not a record: nobody need be there to hear it. */
export async function notify(text: string): Promise<void> {
  await connection().pool.query('select pg_notify($1, $2)', [channel, text]);
}

export interface Listening {
  close(): Promise<void>;
}

/**
 * Listens on a connection of its own until it is closed or breaks, which `onLost` hears once.
 * @throws the driver's error when the database cannot be reached; `onLost` hears of that too
 */
export async function listen(onText: (text: string) => void, onLost: () => void): Promise<Listening> {
  const client = new pg.Client({ connectionString: databaseUrl(), connectionTimeoutMillis: 4_000 });
  let isLost = false;
  const lost = () => {
    if (isLost) return;
    isLost = true;
    onLost();
  };
  client.on('error', lost);
  client.on('end', lost);
  client.on('notification', ({ payload }) => {
    if (payload) onText(payload);
  });
  try {
    await client.connect();
    await client.query(`listen ${channel}`);
  } catch (error) {
    lost();
    throw error;
  }
  return { close: () => client.end() };
}
