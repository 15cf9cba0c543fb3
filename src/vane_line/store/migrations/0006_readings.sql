-- Attempts belong to the case; what is read of one of its teeth in one attempt is a reading, with its edits and jobs.
CREATE TABLE attempts_of_case (
  id TEXT PRIMARY KEY,
  case_id TEXT NOT NULL REFERENCES cases(id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  created_at TEXT NOT NULL,
  put_away_at TEXT,
  UNIQUE (case_id, number)
);
INSERT INTO attempts_of_case
  SELECT a.id, s.case_id, a.number, a.created_at, a.put_away_at FROM attempts a JOIN sites s ON s.id = a.site_id;
CREATE TABLE readings (
  id TEXT PRIMARY KEY,
  attempt_id TEXT NOT NULL REFERENCES attempts(id) ON DELETE CASCADE,
  site_id TEXT NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  UNIQUE (attempt_id, site_id)
);
CREATE INDEX readings_of_site ON readings(site_id);
-- One site was the rule till now: its reading keeps the attempt's id, so that addresses stay.
INSERT INTO readings SELECT id, id, site_id FROM attempts;
DROP TABLE attempts;
ALTER TABLE attempts_of_case RENAME TO attempts;
CREATE TABLE edits_of_reading (
  id TEXT PRIMARY KEY,
  reading_id TEXT NOT NULL REFERENCES readings(id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  revision INTEGER NOT NULL,
  value TEXT,
  created_at TEXT NOT NULL,
  returns_to INTEGER,
  actor TEXT NOT NULL DEFAULT '',
  UNIQUE (reading_id, kind, revision)
);
INSERT INTO edits_of_reading SELECT id, attempt_id, kind, revision, value, created_at, returns_to, actor FROM edits;
DROP TABLE edits;
ALTER TABLE edits_of_reading RENAME TO edits;
CREATE TABLE jobs_of_reading (
  id TEXT PRIMARY KEY,
  reading_id TEXT NOT NULL REFERENCES readings(id) ON DELETE CASCADE,
  state TEXT NOT NULL,
  text TEXT NOT NULL DEFAULT '',
  share REAL NOT NULL DEFAULT 0,
  error TEXT NOT NULL DEFAULT '',
  judgement_key TEXT REFERENCES judgements(key),
  created_at TEXT NOT NULL,
  updated_at TEXT NOT NULL,
  kind TEXT NOT NULL DEFAULT 'measure',
  plan_key TEXT,
  actor TEXT NOT NULL DEFAULT ''
);
INSERT INTO jobs_of_reading
  SELECT id, attempt_id, state, text, share, error, judgement_key, created_at, updated_at, kind, plan_key, actor
  FROM jobs ORDER BY rowid;
DROP TABLE jobs;
ALTER TABLE jobs_of_reading RENAME TO jobs;
CREATE INDEX jobs_of_reading_by_time ON jobs(reading_id, created_at);
