-- What Evidence counts and what stands in a file are answered from an index alone.
CREATE INDEX steps_by_stage ON steps (application_id, destination_id, state, stage, finding_key);
DROP INDEX places_by_file;
CREATE INDEX places_by_file ON places (scan_id, file, position, ordinal, level, line);
