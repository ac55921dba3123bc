CREATE TABLE "deliveries" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"choice" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "deliveries_name_unique" UNIQUE("name")
);
