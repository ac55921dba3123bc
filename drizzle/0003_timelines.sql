CREATE TABLE "gestures" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"gesture" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "looks" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"cube" text NOT NULL,
	"dimensions" integer NOT NULL,
	"size" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "timeline_tests" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"kind" text NOT NULL,
	"timeline_id" text,
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
CREATE TABLE "timeline_versions" (
	"timeline_id" text NOT NULL,
	"number" integer NOT NULL,
	"name" text,
	"document" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "timeline_versions_timeline_id_number_pk" PRIMARY KEY("timeline_id","number")
);
--> statement-breakpoint
CREATE TABLE "timelines" (
	"id" text PRIMARY KEY NOT NULL,
	"rig_id" text NOT NULL,
	"name" text NOT NULL,
	"document" jsonb NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"slots" integer DEFAULT 0 NOT NULL,
	"demo" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "timeline_tests" ADD CONSTRAINT "timeline_tests_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "timeline_versions" ADD CONSTRAINT "timeline_versions_timeline_id_timelines_id_fk" FOREIGN KEY ("timeline_id") REFERENCES "public"."timelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "timelines" ADD CONSTRAINT "timelines_rig_id_rigs_id_fk" FOREIGN KEY ("rig_id") REFERENCES "public"."rigs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "timeline_tests_kind" ON "timeline_tests" USING btree ("kind","created_at");--> statement-breakpoint
CREATE INDEX "timeline_tests_status" ON "timeline_tests" USING btree ("status");--> statement-breakpoint
CREATE INDEX "timelines_rig" ON "timelines" USING btree ("rig_id");