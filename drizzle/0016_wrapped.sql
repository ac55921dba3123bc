-- Streams whose container cuts them into small packets could not be read before: the next scan looks at them again.
UPDATE "clips" SET "modified_at" = to_timestamp(0) WHERE "problem" LIKE 'The container splits its packets%' OR "problem" LIKE 'The container does not say where%';
