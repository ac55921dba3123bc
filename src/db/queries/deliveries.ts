import { asc, eq } from 'drizzle-orm';
import { database } from '../client';
import { deliveries } from '../schema';

export type DeliveryRow = typeof deliveries.$inferSelect;

export async function listDeliveries(): Promise<DeliveryRow[]> {
  return database().select().from(deliveries).orderBy(asc(deliveries.name));
}

/** Keeps a delivery; one of the same name becomes it. Returns its id. */
export async function saveDelivery(row: typeof deliveries.$inferInsert): Promise<string> {
  const [saved] = await database()
    .insert(deliveries)
    .values(row)
    .onConflictDoUpdate({ target: deliveries.name, set: { choice: row.choice } })
    .returning({ id: deliveries.id });
  return saved?.id ?? row.id;
}

/** Returns whether there was one. */
export async function removeDelivery(id: string): Promise<boolean> {
  return (
    (await database().delete(deliveries).where(eq(deliveries.id, id)).returning({ id: deliveries.id }))
      .length > 0
  );
}
