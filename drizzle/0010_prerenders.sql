CREATE TABLE "prerenders" (
	"clip_id" text PRIMARY KEY NOT NULL,
	"timeline_id" text NOT NULL,
	"from_slot" integer NOT NULL,
	"to_slot" integer NOT NULL,
	"pictures" text NOT NULL,
	"read" text NOT NULL,
	"intermediate" text NOT NULL,
	"trial_id" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "made" text;--> statement-breakpoint
ALTER TABLE "prerenders" ADD CONSTRAINT "prerenders_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "prerenders" ADD CONSTRAINT "prerenders_timeline_id_timelines_id_fk" FOREIGN KEY ("timeline_id") REFERENCES "public"."timelines"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "prerenders_timeline" ON "prerenders" USING btree ("timeline_id");