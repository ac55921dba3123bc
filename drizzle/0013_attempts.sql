ALTER TABLE "trials" ADD COLUMN "attempt_of" text;--> statement-breakpoint
CREATE INDEX "trials_attempts" ON "trials" USING btree ("attempt_of");