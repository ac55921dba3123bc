CREATE TABLE "annotations" (
	"trial_id" text PRIMARY KEY NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"excluded" text,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "briefs" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"name" text NOT NULL,
	"document" jsonb NOT NULL,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "plan_cells" (
	"plan_id" text NOT NULL,
	"cell" integer NOT NULL,
	"address" jsonb NOT NULL,
	"labels" jsonb NOT NULL,
	"template" jsonb NOT NULL,
	"expected_ms" double precision NOT NULL,
	CONSTRAINT "plan_cells_plan_id_cell_pk" PRIMARY KEY("plan_id","cell")
);
--> statement-breakpoint
CREATE TABLE "plan_steps" (
	"plan_id" text NOT NULL,
	"position" integer NOT NULL,
	"cell" integer NOT NULL,
	"repeat" integer NOT NULL,
	"status" text NOT NULL,
	"trial_id" text,
	"attempts" integer DEFAULT 0 NOT NULL,
	"outcome" text,
	"disturbed" boolean DEFAULT false NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	CONSTRAINT "plan_steps_plan_id_position_pk" PRIMARY KEY("plan_id","position")
);
--> statement-breakpoint
CREATE TABLE "plans" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"name" text NOT NULL,
	"question" text NOT NULL,
	"settings" jsonb NOT NULL,
	"status" text NOT NULL,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "samples" DROP CONSTRAINT "samples_trial_id_trials_id_fk";
--> statement-breakpoint
ALTER TABLE "rigs" ADD COLUMN "imported" jsonb;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "trial_disk_rate" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "others_disk_rate" double precision;--> statement-breakpoint
ALTER TABLE "samples" ADD COLUMN "network_rate" double precision;--> statement-breakpoint
ALTER TABLE "briefs" ADD CONSTRAINT "briefs_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "plan_cells" ADD CONSTRAINT "plan_cells_plan_id_plans_id_fk" FOREIGN KEY ("plan_id") REFERENCES "public"."plans"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "plan_steps" ADD CONSTRAINT "plan_steps_plan_id_plans_id_fk" FOREIGN KEY ("plan_id") REFERENCES "public"."plans"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "plans" ADD CONSTRAINT "plans_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "briefs_rig" ON "briefs" USING btree ("rig_id");--> statement-breakpoint
CREATE INDEX "plan_steps_trial" ON "plan_steps" USING btree ("trial_id");--> statement-breakpoint
CREATE INDEX "plans_rig" ON "plans" USING btree ("rig_id","created_at");--> statement-breakpoint
CREATE INDEX "plans_status" ON "plans" USING btree ("status");--> statement-breakpoint
CREATE INDEX "trials_rig_kind" ON "trials" USING btree ("rig_id","kind","created_at");--> statement-breakpoint
CREATE INDEX "trials_content" ON "trials" USING btree ("rig_id",("subject"->>'contentHash'),"created_at");--> statement-breakpoint
CREATE INDEX "trials_timeline" ON "trials" USING btree ("rig_id",("subject"->'timeline'->>'id'),"created_at");