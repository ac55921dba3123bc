ALTER TABLE "clips" ADD COLUMN "words" text;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "warnings" text[] DEFAULT '{}'::text[] NOT NULL;