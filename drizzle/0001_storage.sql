CREATE TABLE "block_batches" (
	"trial_id" text NOT NULL,
	"from_block" integer NOT NULL,
	"blocks" integer NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "block_batches_trial_id_from_block_pk" PRIMARY KEY("trial_id","from_block")
);
--> statement-breakpoint
CREATE TABLE "camera_formats" (
	"id" text PRIMARY KEY NOT NULL,
	"position" integer NOT NULL,
	"name" text NOT NULL,
	"raster" text DEFAULT '' NOT NULL,
	"frames_per_second" double precision NOT NULL,
	"codec_class" text DEFAULT '' NOT NULL,
	"bytes_per_frame" bigint NOT NULL,
	"peak_over_mean" double precision DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "copy_files" (
	"trial_id" text NOT NULL,
	"path" text NOT NULL,
	"bytes" bigint NOT NULL,
	"modified_ms" bigint NOT NULL,
	"outcome" text NOT NULL,
	"xxh64" text,
	"hashed_ms" bigint NOT NULL,
	"problem" text,
	CONSTRAINT "copy_files_trial_id_path_pk" PRIMARY KEY("trial_id","path")
);
--> statement-breakpoint
CREATE TABLE "storage_trials" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"volume_id" text,
	"kind" text NOT NULL,
	"subject" jsonb NOT NULL,
	"settings" jsonb NOT NULL,
	"status" text NOT NULL,
	"outcome" text,
	"detail" text,
	"conditions" jsonb,
	"load" jsonb,
	"ramp_streams" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"progress" jsonb,
	"result" jsonb,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "link" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "notes" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "price" double precision;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "stand_in" jsonb;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "cache_bytes" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "block_batches" ADD CONSTRAINT "block_batches_trial_id_storage_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."storage_trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "copy_files" ADD CONSTRAINT "copy_files_trial_id_storage_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."storage_trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "storage_trials" ADD CONSTRAINT "storage_trials_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "storage_trials" ADD CONSTRAINT "storage_trials_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "storage_trials_volume" ON "storage_trials" USING btree ("volume_id","created_at");--> statement-breakpoint
CREATE INDEX "storage_trials_status" ON "storage_trials" USING btree ("status");