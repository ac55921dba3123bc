import {
  boolean,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
} from 'drizzle-orm/pg-core';
import type { Brief } from '@/core/choose/brief';
import type { CellAddress } from '@/core/plan/matrix';
import type { CellLabels, PlanSettings, PlanStatus } from '@/core/plan/plan';
import type { StepStatus } from '@/core/plan/timeLeft';
import { time } from './columns';
import type { NewTrial } from './kinds';
import { rigs } from './librarySchema';

/** Series and matrices: batches of trials that are taken one after the other. */
export const plans = pgTable(
  'plans',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    name: text('name').notNull(),
    /** Which ready-made question it answers, `own`, or `series` for repeats of one trial. */
    question: text('question').notNull(),
    settings: jsonb('settings').$type<PlanSettings>().notNull(),
    status: text('status').$type<PlanStatus>().notNull(),
    /** Came in with a bundle: its results can be looked at, and none of its runs be made again. */
    imported: boolean('imported').notNull().default(false),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (table) => [index('plans_rig').on(table.rigId, table.createdAt), index('plans_status').on(table.status)],
);

export const planCells = pgTable(
  'plan_cells',
  {
    planId: text('plan_id')
      .notNull()
      .references(() => plans.id, { onDelete: 'cascade' }),
    cell: integer('cell').notNull(),
    address: jsonb('address').$type<CellAddress>().notNull(),
    labels: jsonb('labels').$type<CellLabels>().notNull(),
    template: jsonb('template').$type<NewTrial>().notNull(),
    expectedMs: doublePrecision('expected_ms').notNull(),
  },
  (table) => [primaryKey({ columns: [table.planId, table.cell] })],
);

/** Runs of a plan in the order in which they are taken. */
export const planSteps = pgTable(
  'plan_steps',
  {
    planId: text('plan_id')
      .notNull()
      .references(() => plans.id, { onDelete: 'cascade' }),
    position: integer('position').notNull(),
    cell: integer('cell').notNull(),
    repeat: integer('repeat').notNull(),
    status: text('status').$type<StepStatus>().notNull(),
    /** The trial that it made; it may be gone. */
    trialId: text('trial_id'),
    /** How often it was begun: a run that takes the runner down with it is not tried for ever. */
    attempts: integer('attempts').notNull().default(0),
    outcome: text('outcome'),
    /** Others disturbed it, or the machine was unsteady. */
    inDoubt: boolean('disturbed').notNull().default(false),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (table) => [
    primaryKey({ columns: [table.planId, table.position] }),
    index('plan_steps_trial').on(table.trialId),
  ],
);

/** Questions that are to be decided. */
export const briefs = pgTable(
  'briefs',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    name: text('name').notNull(),
    document: jsonb('document').$type<Brief>().notNull(),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    updatedAt: time('updated_at').notNull().defaultNow(),
  },
  (table) => [index('briefs_rig').on(table.rigId)],
);
