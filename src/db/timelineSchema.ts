import { index, integer, jsonb, pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import type { Gesture } from '@/core/scrub/gesture';
import type { ExportChoice } from '@/core/tasks/exportCodecs';
import type { IntermediateId } from '@/core/tasks/prerender';
import type { Timeline } from '@/core/timeline/model';
import { time } from './columns';
import { clips, rigs } from './librarySchema';

/** Timelines as they are edited; trials play versions of them. */
export const timelines = pgTable(
  'timelines',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    name: text('name').notNull(),
    document: jsonb('document').$type<Timeline>().notNull(),
    /** Grows with every save: tells two editors apart. */
    revision: integer('revision').notNull().default(1),
    slots: integer('slots').notNull().default(0),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    updatedAt: time('updated_at').notNull().defaultNow(),
    /** Removed from the list; its versions stay with the trials that played them. */
    removedAt: time('removed_at'),
  },
  (table) => [index('timelines_rig').on(table.rigId)],
);

/** States of a timeline that were named or played; never changed. */
export const timelineVersions = pgTable(
  'timeline_versions',
  {
    timelineId: text('timeline_id')
      .notNull()
      .references(() => timelines.id),
    number: integer('number').notNull(),
    name: text('name'),
    document: jsonb('document').$type<Timeline>().notNull(),
    createdAt: time('created_at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.timelineId, table.number] })],
);

/** Parts of timelines that were rendered ahead. */
export const prerenders = pgTable(
  'prerenders',
  {
    /** The file, as a clip that no list of media has. */
    clipId: text('clip_id')
      .primaryKey()
      .references(() => clips.id, { onDelete: 'cascade' }),
    timelineId: text('timeline_id')
      .notNull()
      .references(() => timelines.id, { onDelete: 'cascade' }),
    from: integer('from_slot').notNull(),
    to: integer('to_slot').notNull(),
    /** Hash of all that decided its pictures: another one now, and it is stale. */
    pictures: text('pictures').notNull(),
    /** Which form of the footage it was made of. */
    read: text('read').$type<'originals' | 'proxies'>().notNull(),
    intermediate: text('intermediate').$type<IntermediateId>().notNull(),
    /** The trial that made it; it may be gone. */
    trialId: text('trial_id').notNull(),
    createdAt: time('created_at').notNull().defaultNow(),
  },
  (table) => [index('prerenders_timeline').on(table.timelineId)],
);

/** Colour tables as `.cube` text; never changed, since timelines refer to them. */
export const looks = pgTable('looks', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  cube: text('cube').notNull(),
  dimensions: integer('dimensions').$type<1 | 3>().notNull(),
  size: integer('size').notNull(),
  createdAt: time('created_at').notNull().defaultNow(),
});

/** Recorded movements of a playhead. */
export const gestures = pgTable('gestures', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  gesture: jsonb('gesture').$type<Gesture>().notNull(),
  createdAt: time('created_at').notNull().defaultNow(),
});

/** Ways of writing an export that people keep under a name. */
export const deliveries = pgTable('deliveries', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  choice: jsonb('choice').$type<ExportChoice>().notNull(),
  createdAt: time('created_at').notNull().defaultNow(),
});
