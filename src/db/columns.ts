import { customType, timestamp } from 'drizzle-orm/pg-core';

export const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
export const time = (name: string) => timestamp(name, { withTimezone: true });
