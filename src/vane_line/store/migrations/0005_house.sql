-- Who did it; what was put away can be taken back; a judgement names the meshes that its fields belong to.
ALTER TABLE edits ADD COLUMN actor TEXT NOT NULL DEFAULT '';
ALTER TABLE jobs ADD COLUMN actor TEXT NOT NULL DEFAULT '';
ALTER TABLE cases ADD COLUMN put_away_at TEXT;
ALTER TABLE attempts ADD COLUMN put_away_at TEXT;
ALTER TABLE judgements ADD COLUMN meshes TEXT NOT NULL DEFAULT '{}';
-- What was read from the watched folder, so that a file that could not be moved is not taken twice.
ALTER TABLE arrivals ADD COLUMN digest TEXT NOT NULL DEFAULT '';
-- A plan is kept as long as a job points at it: two attempts may share one.
CREATE TABLE plans_shared (
  key TEXT PRIMARY KEY,
  document TEXT NOT NULL,
  target_hash TEXT,
  light_hash TEXT,
  created_at TEXT NOT NULL
);
INSERT INTO plans_shared SELECT key, document, target_hash, light_hash, created_at FROM plans;
DROP TABLE plans;
ALTER TABLE plans_shared RENAME TO plans;
