DROP INDEX "trials_created";--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "name" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "how" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "volume_names" text[] DEFAULT '{}'::text[] NOT NULL;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "grade" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "doubt" text;--> statement-breakpoint
CREATE INDEX "trials_listed" ON "trials" USING btree ("created_at","id","kind","rig_id","status","grade","doubt","timeline_id","name");