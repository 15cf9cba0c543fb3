-- What users make themselves, version by version: standards, sequences. Rows are never rewritten.
CREATE TABLE own (
  kind TEXT NOT NULL,
  id TEXT NOT NULL,
  version INTEGER NOT NULL,
  data TEXT NOT NULL,
  created_at TEXT NOT NULL,
  PRIMARY KEY (kind, id, version)
);
-- What holds for the whole surgery: the bur tray, the mill.
CREATE TABLE settings (
  key TEXT PRIMARY KEY,
  value TEXT NOT NULL,
  revision INTEGER NOT NULL
);
CREATE TABLE plans (
  key TEXT PRIMARY KEY,
  attempt_id TEXT NOT NULL REFERENCES attempts(id) ON DELETE CASCADE,
  document TEXT NOT NULL,
  target_hash TEXT,
  light_hash TEXT,
  created_at TEXT NOT NULL
);
ALTER TABLE sites ADD COLUMN standard_version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE sites ADD COLUMN functional_side TEXT;
ALTER TABLE cases ADD COLUMN opening TEXT;
ALTER TABLE jobs ADD COLUMN kind TEXT NOT NULL DEFAULT 'measure';
ALTER TABLE jobs ADD COLUMN plan_key TEXT;
