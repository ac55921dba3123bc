ALTER TABLE "samples" ADD COLUMN "link_rate" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "trial_moved_rate" double precision;