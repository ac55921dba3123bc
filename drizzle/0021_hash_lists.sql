CREATE TABLE "hash_lists" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"text" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "checked_files" (
	"trial_id" text NOT NULL,
	"path" text NOT NULL,
	"bytes" bigint,
	"modified_ms" bigint,
	"outcome" text NOT NULL,
	"hash" text,
	"hashed_ms" bigint NOT NULL,
	"problem" text,
	CONSTRAINT "checked_files_trial_id_path_pk" PRIMARY KEY("trial_id","path")
);
--> statement-breakpoint
ALTER TABLE "checked_files" ADD CONSTRAINT "checked_files_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;