CREATE TABLE "clips" (
	"id" text PRIMARY KEY NOT NULL,
	"volume_id" text NOT NULL,
	"path" text NOT NULL,
	"size_bytes" bigint NOT NULL,
	"modified_at" timestamp with time zone NOT NULL,
	"status" text NOT NULL,
	"problem" text,
	"content_hash" text,
	"format" jsonb,
	"structure" jsonb,
	"time_base" jsonb,
	"setup" jsonb,
	"start_timecode" text,
	"frames" integer,
	"mean_bits_per_second" double precision,
	"peak_bits_per_second" double precision,
	"scanned_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "packet_tables" (
	"clip_id" text PRIMARY KEY NOT NULL,
	"data" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rigs" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"identity" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "runners" (
	"rig_id" text PRIMARY KEY NOT NULL,
	"pid" integer NOT NULL,
	"picture_port" integer NOT NULL,
	"trial_pid" integer,
	"seen_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "samples" (
	"trial_id" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"trial_load" double precision NOT NULL,
	"others_load" double precision NOT NULL,
	"free_memory_bytes" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "trace_batches" (
	"trial_id" text NOT NULL,
	"from_slot" integer NOT NULL,
	"slots" integer NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "trace_batches_trial_id_from_slot_pk" PRIMARY KEY("trial_id","from_slot")
);
--> statement-breakpoint
CREATE TABLE "trials" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"rig_id" text NOT NULL,
	"clip_id" text,
	"subject" jsonb NOT NULL,
	"settings" jsonb NOT NULL,
	"status" text NOT NULL,
	"outcome" text,
	"detail" text,
	"slot_count" integer NOT NULL,
	"conditions" jsonb,
	"load" jsonb,
	"summary" jsonb,
	"charges" "bytea",
	"self_check" jsonb,
	"cancel_requested_at" timestamp with time zone,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "volumes" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"path" text NOT NULL,
	"facts" jsonb NOT NULL,
	"demo" integer DEFAULT 0 NOT NULL,
	"scan" jsonb,
	"scanned_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "clips" ADD CONSTRAINT "clips_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "packet_tables" ADD CONSTRAINT "packet_tables_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runners" ADD CONSTRAINT "runners_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "samples" ADD CONSTRAINT "samples_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trace_batches" ADD CONSTRAINT "trace_batches_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trials" ADD CONSTRAINT "trials_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trials" ADD CONSTRAINT "trials_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "volumes" ADD CONSTRAINT "volumes_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "clips_volume" ON "clips" USING btree ("volume_id");--> statement-breakpoint
CREATE INDEX "samples_trial" ON "samples" USING btree ("trial_id");--> statement-breakpoint
CREATE INDEX "trials_created" ON "trials" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "trials_status" ON "trials" USING btree ("status");