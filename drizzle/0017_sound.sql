ALTER TABLE "clips" ADD COLUMN "sound" jsonb;--> statement-breakpoint
ALTER TABLE "packet_tables" ADD COLUMN "sound" "bytea";--> statement-breakpoint
-- Where sound lies was not noted before: the next scan looks at clips that have some again.
UPDATE "clips" SET "modified_at" = to_timestamp(0) WHERE "status" = 'ready' AND jsonb_typeof("identity" -> 'audio' -> 0) = 'object';
