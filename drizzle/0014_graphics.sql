ALTER TABLE "samples" ADD COLUMN "graphics_load" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "graphics_memory_bytes" bigint;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "trial_graphics_load" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "trial_decode_engine_load" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "trial_encode_engine_load" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "trial_graphics_memory_bytes" bigint;