CREATE TABLE "decode_trials" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"clip_id" text,
	"kind" text NOT NULL,
	"format_class" text NOT NULL,
	"device_id" text,
	"subject" jsonb NOT NULL,
	"settings" jsonb NOT NULL,
	"status" text NOT NULL,
	"outcome" text,
	"detail" text,
	"conditions" jsonb,
	"load" jsonb,
	"progress" jsonb,
	"record" jsonb,
	"result" jsonb,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "footage" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"name" text NOT NULL,
	"by_hand" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "previews" (
	"clip_id" text PRIMARY KEY NOT NULL,
	"content_hash" text NOT NULL,
	"strip" "bytea",
	"tiles" integer DEFAULT 0 NOT NULL,
	"tile_width" integer DEFAULT 0 NOT NULL,
	"tile_height" integer DEFAULT 0 NOT NULL,
	"strip_ms" double precision DEFAULT 0 NOT NULL,
	"peaks" "bytea",
	"audio_ms" double precision DEFAULT 0 NOT NULL,
	"fingerprint" "bytea",
	"problem" text
);
--> statement-breakpoint
CREATE TABLE "rendition_items" (
	"id" text PRIMARY KEY NOT NULL,
	"job_id" text NOT NULL,
	"position" integer NOT NULL,
	"source_clip_id" text,
	"source_path" text NOT NULL,
	"source_hash" text,
	"source_format" jsonb NOT NULL,
	"source_frames" integer NOT NULL,
	"source_bytes" bigint NOT NULL,
	"settings_key" text NOT NULL,
	"status" text NOT NULL,
	"outcome" text,
	"detail" text,
	"output_path" text NOT NULL,
	"output_clip_id" text,
	"work" jsonb,
	"frame_check" jsonb
);
--> statement-breakpoint
CREATE TABLE "rendition_jobs" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"settings" jsonb NOT NULL,
	"status" text NOT NULL,
	"outcome" text,
	"conditions" jsonb,
	"load" jsonb,
	"lanes" jsonb,
	"progress" jsonb,
	"worked_ms" double precision DEFAULT 0 NOT NULL,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "identity" jsonb;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "footage_id" text;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "footage_hand" text;--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "index_ms" double precision;--> statement-breakpoint
ALTER TABLE "rigs" ADD COLUMN "devices" jsonb;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "last_scan" jsonb;--> statement-breakpoint
ALTER TABLE "decode_trials" ADD CONSTRAINT "decode_trials_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "decode_trials" ADD CONSTRAINT "decode_trials_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "footage" ADD CONSTRAINT "footage_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "previews" ADD CONSTRAINT "previews_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rendition_items" ADD CONSTRAINT "rendition_items_job_id_rendition_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."rendition_jobs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rendition_items" ADD CONSTRAINT "rendition_items_source_clip_id_clips_id_fk" FOREIGN KEY ("source_clip_id") REFERENCES "public"."clips"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rendition_items" ADD CONSTRAINT "rendition_items_output_clip_id_clips_id_fk" FOREIGN KEY ("output_clip_id") REFERENCES "public"."clips"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rendition_jobs" ADD CONSTRAINT "rendition_jobs_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "decode_trials_clip" ON "decode_trials" USING btree ("clip_id");--> statement-breakpoint
CREATE INDEX "decode_trials_status" ON "decode_trials" USING btree ("status");--> statement-breakpoint
CREATE INDEX "decode_trials_cell" ON "decode_trials" USING btree ("format_class","device_id");--> statement-breakpoint
CREATE INDEX "rendition_items_job" ON "rendition_items" USING btree ("job_id","position");--> statement-breakpoint
CREATE INDEX "rendition_items_made" ON "rendition_items" USING btree ("source_hash","settings_key");--> statement-breakpoint
CREATE INDEX "rendition_jobs_status" ON "rendition_jobs" USING btree ("status");--> statement-breakpoint
ALTER TABLE "clips" ADD CONSTRAINT "clips_footage_id_footage_id_fk" FOREIGN KEY ("footage_id") REFERENCES "public"."footage"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "clips_footage" ON "clips" USING btree ("footage_id");--> statement-breakpoint
CREATE INDEX "clips_content" ON "clips" USING btree ("content_hash");