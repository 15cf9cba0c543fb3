-- Exercises: a case whose scan before cutting is handed out, and how what comes back is marked. A hand-in is a case of its
-- own that shares those scans. What an eye saw first and an instructor's overrule are edits of its readings.
CREATE TABLE exercises (
    id TEXT PRIMARY KEY,
    title TEXT NOT NULL,
    case_id TEXT NOT NULL REFERENCES cases (id) ON DELETE CASCADE,
    rubric TEXT NOT NULL,
    look_first INTEGER NOT NULL,
    created_at TEXT NOT NULL
);
CREATE TABLE hand_ins (
    case_id TEXT PRIMARY KEY REFERENCES cases (id) ON DELETE CASCADE,
    exercise_id TEXT NOT NULL REFERENCES exercises (id) ON DELETE CASCADE,
    created_at TEXT NOT NULL
);
CREATE INDEX hand_ins_of_exercise ON hand_ins (exercise_id);
