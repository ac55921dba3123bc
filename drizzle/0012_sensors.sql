ALTER TABLE "samples" ADD COLUMN "held_share" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "clock_gigahertz" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "temperature_celsius" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "throttled" boolean;