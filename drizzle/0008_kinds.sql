-- Five tables of trials become one: what was measured is carried over, kinds get the one name that they have everywhere.
CREATE FUNCTION pg_temp.volumes_of(subject jsonb) RETURNS text[] LANGUAGE sql AS $$
	SELECT CASE
		WHEN jsonb_typeof(subject->'timeline') = 'object'
			THEN ARRAY(SELECT DISTINCT used.value->>'volumeId' FROM jsonb_each(subject->'timeline'->'media') used WHERE used.value->>'volumeId' IS NOT NULL)
		WHEN subject->>'volumeId' IS NOT NULL THEN ARRAY[subject->>'volumeId']
		ELSE '{}'::text[] END
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.is_simulated(subject jsonb) RETURNS boolean LANGUAGE sql AS $$
	SELECT coalesce(jsonb_typeof(subject->'standIn') = 'object', false)
		OR coalesce((subject->'device'->>'simulated')::boolean, false)
		OR (jsonb_typeof(subject->'timeline') = 'object'
			AND EXISTS (SELECT 1 FROM jsonb_each(subject->'timeline'->'media') used WHERE jsonb_typeof(used.value->'standIn') = 'object'))
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.kind_of(family text, kind text) RETURNS text LANGUAGE sql AS $$
	SELECT CASE
		WHEN family = 'decode' THEN 'decode-' || kind
		WHEN family = 'storage' AND kind = 'streams' THEN 'streams-carried'
		WHEN family = 'timelineTest' AND kind = 'costs' THEN 'calibration'
		ELSE kind END
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.settings_of(settings jsonb, kind text) RETURNS jsonb LANGUAGE sql AS $$
	SELECT CASE WHEN settings ? 'kind' THEN jsonb_set(settings, '{kind}', to_jsonb(kind)) ELSE settings END
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.storage_volumes(volume_id text, settings jsonb) RETURNS text[] LANGUAGE sql AS $$
	SELECT ARRAY(SELECT named FROM (
		SELECT volume_id AS named, 0::bigint AS place
		UNION ALL SELECT target->>'volumeId', place FROM jsonb_array_elements(CASE WHEN jsonb_typeof(settings->'destinations') = 'array' THEN settings->'destinations' ELSE '[]'::jsonb END) WITH ORDINALITY AS listed(target, place)
	) used WHERE named IS NOT NULL GROUP BY named ORDER BY min(place))
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.goes_to_simulated(settings jsonb) RETURNS boolean LANGUAGE sql AS $$
	SELECT EXISTS (SELECT 1 FROM jsonb_array_elements(CASE WHEN jsonb_typeof(settings->'destinations') = 'array' THEN settings->'destinations' ELSE '[]'::jsonb END) target WHERE (target->>'simulated')::boolean)
$$;
--> statement-breakpoint
CREATE FUNCTION pg_temp.template_of(family text, kept jsonb) RETURNS jsonb LANGUAGE sql AS $$
	SELECT jsonb_build_object(
		'kind', pg_temp.kind_of(family, kept->>'kind'),
		'clipId', kept->'clipId',
		'timelineId', coalesce(kept->'timelineId', kept->'subject'->'timeline'->'id'),
		'volumeIds', to_jsonb(CASE family
			WHEN 'storage' THEN pg_temp.storage_volumes(kept->>'volumeId', kept->'settings')
			WHEN 'decode' THEN ARRAY(SELECT c.volume_id FROM clips c WHERE c.id = kept->>'clipId')
			ELSE pg_temp.volumes_of(kept->'subject') END),
		'subject', (kept->'subject') || CASE family WHEN 'storage' THEN jsonb_build_object('volumeId', kept->'volumeId') ELSE '{}'::jsonb END,
		'settings', pg_temp.settings_of(kept->'settings', pg_temp.kind_of(family, kept->>'kind')),
		'simulated', pg_temp.is_simulated(kept->'subject') OR pg_temp.goes_to_simulated(kept->'settings'),
		'demo', coalesce(kept->'demo', '0'::jsonb))
		|| CASE WHEN family = 'trial' THEN jsonb_build_object('progress', jsonb_build_object('slotCount', kept->'slotCount')) ELSE '{}'::jsonb END
$$;
--> statement-breakpoint
CREATE TABLE "records" (
	"trial_id" text PRIMARY KEY NOT NULL,
	"record" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "slot_charges" (
	"trial_id" text PRIMARY KEY NOT NULL,
	"charges" "bytea" NOT NULL
);
--> statement-breakpoint
ALTER TABLE "block_batches" DROP CONSTRAINT "block_batches_trial_id_storage_trials_id_fk";
--> statement-breakpoint
ALTER TABLE "copy_files" DROP CONSTRAINT "copy_files_trial_id_storage_trials_id_fk";
--> statement-breakpoint
ALTER TABLE "rendition_items" DROP CONSTRAINT "rendition_items_job_id_rendition_jobs_id_fk";
--> statement-breakpoint
DROP INDEX "rendition_items_job";--> statement-breakpoint
DROP INDEX "trials_content";--> statement-breakpoint
DROP INDEX "trials_timeline";--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "volume_ids" text[] DEFAULT '{}'::text[] NOT NULL;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "timeline_id" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "progress" jsonb;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "plan_id" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "plan_cell" integer;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "origin" text DEFAULT 'measured' NOT NULL;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "simulated" boolean DEFAULT false NOT NULL;--> statement-breakpoint
UPDATE trials SET
	volume_ids = pg_temp.volumes_of(subject),
	timeline_id = subject->'timeline'->>'id',
	progress = jsonb_build_object('slotCount', slot_count),
	simulated = pg_temp.is_simulated(subject),
	summary = CASE WHEN jsonb_typeof(self_check) = 'object' THEN coalesce(summary, '{}'::jsonb) || jsonb_build_object('selfCheck', self_check) ELSE summary END;
--> statement-breakpoint
INSERT INTO slot_charges (trial_id, charges) SELECT id, charges FROM trials WHERE charges IS NOT NULL;
--> statement-breakpoint
ALTER TABLE "trials" DROP COLUMN "slot_count";--> statement-breakpoint
ALTER TABLE "trials" DROP COLUMN "charges";--> statement-breakpoint
ALTER TABLE "trials" DROP COLUMN "self_check";--> statement-breakpoint
ALTER TABLE "trials" DROP COLUMN "cancel_requested_at";--> statement-breakpoint
INSERT INTO trials (id, kind, rig_id, volume_ids, subject, settings, status, outcome, detail, conditions, load, progress, summary, simulated, demo, created_at, started_at, ended_at)
	SELECT id, pg_temp.kind_of('storage', kind), rig_id, pg_temp.storage_volumes(volume_id, settings), subject || jsonb_build_object('volumeId', volume_id),
		pg_temp.settings_of(settings, pg_temp.kind_of('storage', kind)), status, outcome, detail, conditions, load, progress,
		CASE WHEN jsonb_typeof(result) = 'object' THEN result->'summary' END,
		pg_temp.is_simulated(subject) OR pg_temp.goes_to_simulated(settings), demo, created_at, started_at, ended_at
	FROM storage_trials;
--> statement-breakpoint
INSERT INTO records (trial_id, record) SELECT id, jsonb_build_object('streams', ramp_streams) FROM storage_trials WHERE kind = 'streams';
--> statement-breakpoint
INSERT INTO trials (id, kind, rig_id, clip_id, volume_ids, subject, settings, status, outcome, detail, conditions, load, progress, summary, simulated, demo, created_at, started_at, ended_at)
	SELECT id, 'decode-' || kind, rig_id, clip_id, ARRAY(SELECT c.volume_id FROM clips c WHERE c.id = decode_trials.clip_id), subject,
		pg_temp.settings_of(settings, 'decode-' || kind), status, outcome, detail, conditions, load, progress,
		CASE WHEN jsonb_typeof(result) = 'object' THEN jsonb_set(result, '{kind}', to_jsonb('decode-' || kind)) END,
		pg_temp.is_simulated(subject), demo, created_at, started_at, ended_at
	FROM decode_trials;
--> statement-breakpoint
INSERT INTO records (trial_id, record) SELECT id, record FROM decode_trials WHERE jsonb_typeof(record) = 'object';
--> statement-breakpoint
INSERT INTO trials (id, kind, rig_id, timeline_id, volume_ids, subject, settings, status, outcome, detail, conditions, load, progress, summary, simulated, demo, created_at, started_at, ended_at)
	SELECT id, pg_temp.kind_of('timelineTest', kind), rig_id, timeline_id, pg_temp.volumes_of(subject), subject,
		pg_temp.settings_of(settings, pg_temp.kind_of('timelineTest', kind)), status, outcome, detail, conditions, load, progress,
		CASE WHEN jsonb_typeof(result) = 'object' THEN coalesce(result->'summary', result->'ramp', result->'costs') END,
		pg_temp.is_simulated(subject), demo, created_at, started_at, ended_at
	FROM timeline_tests;
--> statement-breakpoint
INSERT INTO records (trial_id, record) SELECT id, record FROM timeline_tests WHERE jsonb_typeof(record) = 'object';
--> statement-breakpoint
INSERT INTO trials (id, kind, rig_id, volume_ids, subject, settings, status, outcome, conditions, load, progress, summary, simulated, demo, created_at, started_at, ended_at)
	SELECT job.id, 'renditions', job.rig_id, ARRAY[job.settings->>'volumeId'],
		jsonb_build_object('volumeName', job.settings->'volumeName', 'simulated', job.settings->'simulated',
			'clips', items.number, 'firstClip', items.first),
		job.settings - '{volumeName,simulated}'::text[], job.status, job.outcome, job.conditions, job.load, job.progress,
		CASE WHEN job.status NOT IN ('queued', 'running') THEN jsonb_build_object('items', items.number, 'made', items.made, 'present', items.present, 'failed', items.failed) END,
		coalesce((job.settings->>'simulated')::boolean, false), job.demo, job.created_at, job.started_at, job.ended_at
	FROM rendition_jobs job CROSS JOIN LATERAL (
		SELECT count(*) AS number, coalesce((array_agg(item.source_path ORDER BY item.position))[1], '') AS first,
			count(*) FILTER (WHERE item.status = 'made') AS made, count(*) FILTER (WHERE item.status = 'present') AS present,
			count(*) FILTER (WHERE item.status = 'failed') AS failed
		FROM rendition_items item WHERE item.job_id = job.id) items;
--> statement-breakpoint
INSERT INTO records (trial_id, record) SELECT id, jsonb_build_object('lanes', lanes, 'workedMs', worked_ms) FROM rendition_jobs;
--> statement-breakpoint
ALTER TABLE "rendition_items" RENAME COLUMN "job_id" TO "trial_id";--> statement-breakpoint
DROP TABLE "decode_trials" CASCADE;--> statement-breakpoint
DROP TABLE "rendition_jobs" CASCADE;--> statement-breakpoint
DROP TABLE "storage_trials" CASCADE;--> statement-breakpoint
DROP TABLE "timeline_tests" CASCADE;--> statement-breakpoint
UPDATE trials SET origin = 'imported', simulated = trials.simulated OR coalesce((rigs.imported->>'simulated')::boolean, false)
	FROM rigs WHERE rigs.id = trials.rig_id AND jsonb_typeof(rigs.imported) = 'object';
--> statement-breakpoint
-- Volumes of another rig may have the names of this one's.
UPDATE trials SET volume_ids = ARRAY(SELECT named FROM unnest(volume_ids) named WHERE EXISTS (SELECT 1 FROM volumes WHERE volumes.id = named AND volumes.rig_id = trials.rig_id))
	WHERE origin = 'imported';
--> statement-breakpoint
UPDATE trials SET plan_id = step.plan_id, plan_cell = step.cell FROM plan_steps step WHERE step.trial_id = trials.id;
--> statement-breakpoint
UPDATE plan_cells SET
	template = pg_temp.template_of(template->>'kind', template->'row'),
	address = jsonb_set(address, '{test}', to_jsonb(CASE address->>'test' WHEN 'decode' THEN 'decode-rate' WHEN 'streams' THEN 'streams-carried' ELSE address->>'test' END));
--> statement-breakpoint
UPDATE plans SET settings = jsonb_set(settings, '{tests}', (
	SELECT coalesce(jsonb_agg(CASE test WHEN 'decode' THEN 'decode-rate' WHEN 'streams' THEN 'streams-carried' ELSE test END ORDER BY place), '[]'::jsonb)
	FROM jsonb_array_elements_text(settings->'tests') WITH ORDINALITY AS listed(test, place)))
	WHERE jsonb_typeof(settings->'tests') = 'array';
--> statement-breakpoint
-- What was said of trials that are gone, and what the rig did during them.
DELETE FROM samples WHERE NOT EXISTS (SELECT 1 FROM trials WHERE trials.id = samples.trial_id);--> statement-breakpoint
DELETE FROM annotations WHERE NOT EXISTS (SELECT 1 FROM trials WHERE trials.id = annotations.trial_id);--> statement-breakpoint
ALTER TABLE "records" ADD CONSTRAINT "records_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "slot_charges" ADD CONSTRAINT "slot_charges_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "block_batches" ADD CONSTRAINT "block_batches_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "copy_files" ADD CONSTRAINT "copy_files_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rendition_items" ADD CONSTRAINT "rendition_items_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "samples" ADD CONSTRAINT "samples_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trials" ADD CONSTRAINT "trials_plan_id_plans_id_fk" FOREIGN KEY ("plan_id") REFERENCES "public"."plans"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "annotations" ADD CONSTRAINT "annotations_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "rendition_items_trial" ON "rendition_items" USING btree ("trial_id","position");--> statement-breakpoint
CREATE INDEX "trials_rig_created" ON "trials" USING btree ("rig_id","created_at");--> statement-breakpoint
CREATE INDEX "trials_clip" ON "trials" USING btree ("clip_id");--> statement-breakpoint
CREATE INDEX "trials_volumes" ON "trials" USING gin ("volume_ids");--> statement-breakpoint
CREATE INDEX "trials_plan" ON "trials" USING btree ("plan_id");--> statement-breakpoint
CREATE INDEX "trials_timeline" ON "trials" USING btree ("rig_id","kind","timeline_id","created_at");--> statement-breakpoint
CREATE INDEX "trials_content" ON "trials" USING btree ("rig_id","kind",("subject"->>'contentHash'),"created_at");
