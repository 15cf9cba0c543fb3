-- The chair log: steps and timers of a case's visits, when they were started and stopped; never rewritten but for the
-- moment of stopping. And what is written down beside them, as revisions that are only added.
CREATE TABLE visit_entries (
    id TEXT PRIMARY KEY,
    case_id TEXT NOT NULL REFERENCES cases (id) ON DELETE CASCADE,
    kind TEXT NOT NULL CHECK (kind IN ('step', 'timer')),
    name TEXT NOT NULL,
    started_at TEXT NOT NULL,
    stopped_at TEXT
);
CREATE INDEX visit_entries_of_case ON visit_entries (case_id, started_at);
CREATE TABLE visit_notes (
    case_id TEXT NOT NULL REFERENCES cases (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    value TEXT NOT NULL,
    created_at TEXT NOT NULL,
    PRIMARY KEY (case_id, revision)
);
