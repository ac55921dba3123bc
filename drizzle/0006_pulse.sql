ALTER TABLE "rigs" ADD COLUMN "best_pulse" jsonb;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "lost_share" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "pulse_us" double precision;