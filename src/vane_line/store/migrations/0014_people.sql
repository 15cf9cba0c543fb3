-- Who may use a server that other machines reach. A session is kept by its token's hash alone. A laboratory sees the cases
-- that were shared with it, a student what was handed in by the student's own code.
CREATE TABLE people (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    role TEXT NOT NULL CHECK (role IN ('owner', 'dentist', 'instructor', 'student', 'laboratory')),
    password_hash TEXT NOT NULL,
    created_at TEXT NOT NULL
);
CREATE TABLE sessions (
    token_hash TEXT PRIMARY KEY,
    person_id TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    created_at TEXT NOT NULL,
    seen_at TEXT NOT NULL
);
CREATE INDEX sessions_of_person ON sessions (person_id);
CREATE TABLE failed_sign_ins (
    name TEXT PRIMARY KEY COLLATE NOCASE,
    count INTEGER NOT NULL,
    last_at TEXT NOT NULL
);
CREATE TABLE shared_cases (
    case_id TEXT NOT NULL REFERENCES cases (id) ON DELETE CASCADE,
    person_id TEXT NOT NULL REFERENCES people (id) ON DELETE CASCADE,
    PRIMARY KEY (case_id, person_id)
);
