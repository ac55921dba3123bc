import pg from 'pg';
import { databaseUrl } from './client';

/**
 * Holds a rig for this process as long as it lives; waits while another has it.
 * @param onLost hears that the database went away, and the lock with it
 */
export async function holdRigLock(rigId: string, onLost: () => void): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl() });
  client.on('error', onLost);
  await client.connect();
  await client.query('select pg_advisory_lock(hashtext($1))', [`navvy-runner-${rigId}`]);
}
