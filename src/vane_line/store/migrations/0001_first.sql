CREATE TABLE cases (
  id TEXT PRIMARY KEY,
  code TEXT NOT NULL,
  notes TEXT NOT NULL DEFAULT '',
  surface_meaning TEXT NOT NULL DEFAULT 'natural',
  opposing_frame TEXT NOT NULL DEFAULT 'prep',
  demo INTEGER NOT NULL DEFAULT 0,
  revision INTEGER NOT NULL DEFAULT 1,
  created_at TEXT NOT NULL
);
CREATE TABLE sites (
  id TEXT PRIMARY KEY,
  case_id TEXT NOT NULL REFERENCES cases(id) ON DELETE CASCADE,
  tooth TEXT NOT NULL,
  kind TEXT NOT NULL DEFAULT 'crown-abutment',
  restoration TEXT NOT NULL,
  material TEXT NOT NULL,
  standard_id TEXT NOT NULL,
  created_at TEXT NOT NULL
);
CREATE INDEX sites_of_case ON sites(case_id);
CREATE TABLE attempts (
  id TEXT PRIMARY KEY,
  site_id TEXT NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  created_at TEXT NOT NULL,
  UNIQUE (site_id, number)
);
-- Raw bytes by content; a row of blobs exists only together with all its chunks (one transaction).
CREATE TABLE blobs (
  hash TEXT PRIMARY KEY,
  size INTEGER NOT NULL,
  created_at TEXT NOT NULL
);
CREATE TABLE chunks (
  hash TEXT NOT NULL REFERENCES blobs(hash) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  data BLOB NOT NULL,
  PRIMARY KEY (hash, number)
) WITHOUT ROWID;
CREATE TABLE scans (
  id TEXT PRIMARY KEY,
  case_id TEXT NOT NULL REFERENCES cases(id) ON DELETE CASCADE,
  attempt_id TEXT REFERENCES attempts(id) ON DELETE CASCADE,
  role TEXT NOT NULL,
  name TEXT NOT NULL,
  unit TEXT NOT NULL,
  unit_sure INTEGER NOT NULL,
  raw_hash TEXT NOT NULL REFERENCES blobs(hash),
  rest_hash TEXT NOT NULL REFERENCES blobs(hash),
  light_hash TEXT NOT NULL REFERENCES blobs(hash),
  facts TEXT NOT NULL,
  created_at TEXT NOT NULL
);
CREATE INDEX scans_of_case ON scans(case_id);
CREATE TABLE transforms (
  id TEXT PRIMARY KEY,
  scan_id TEXT NOT NULL REFERENCES scans(id) ON DELETE CASCADE,
  version INTEGER NOT NULL,
  matrix TEXT NOT NULL,
  u_align_um REAL,
  made_by TEXT NOT NULL,
  created_at TEXT NOT NULL,
  UNIQUE (scan_id, version)
);
-- Hand edits are revisions that are only ever added; undo adds the earlier value again.
CREATE TABLE edits (
  id TEXT PRIMARY KEY,
  attempt_id TEXT NOT NULL REFERENCES attempts(id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  revision INTEGER NOT NULL,
  value TEXT,
  created_at TEXT NOT NULL,
  UNIQUE (attempt_id, kind, revision)
);
CREATE TABLE geometries (
  key TEXT PRIMARY KEY,
  algorithm_version INTEGER NOT NULL,
  blob_hash TEXT NOT NULL REFERENCES blobs(hash),
  created_at TEXT NOT NULL
);
CREATE TABLE judgements (
  key TEXT PRIMARY KEY,
  geometry_key TEXT NOT NULL REFERENCES geometries(key) ON DELETE CASCADE,
  standard_hash TEXT NOT NULL,
  document TEXT NOT NULL,
  fields TEXT NOT NULL,
  created_at TEXT NOT NULL
);
CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  attempt_id TEXT NOT NULL REFERENCES attempts(id) ON DELETE CASCADE,
  state TEXT NOT NULL,
  text TEXT NOT NULL DEFAULT '',
  share REAL NOT NULL DEFAULT 0,
  error TEXT NOT NULL DEFAULT '',
  judgement_key TEXT REFERENCES judgements(key),
  created_at TEXT NOT NULL,
  updated_at TEXT NOT NULL
);
CREATE INDEX jobs_of_attempt ON jobs(attempt_id, created_at);
