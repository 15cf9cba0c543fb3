-- Scans that came through the watched folder: what became of each, told once.
CREATE TABLE arrivals (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  case_id TEXT REFERENCES cases(id) ON DELETE CASCADE,
  attempt_id TEXT REFERENCES attempts(id) ON DELETE CASCADE,
  job_id TEXT,
  error TEXT NOT NULL DEFAULT '',
  created_at TEXT NOT NULL
);
