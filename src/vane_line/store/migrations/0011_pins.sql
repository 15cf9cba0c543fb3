-- What is known that no scan shows: whether guide pins stand in the holes, and how deep a gauge told these to be, mm by side, as JSON.
ALTER TABLE sites ADD COLUMN guide_pins INTEGER NOT NULL DEFAULT 0;
ALTER TABLE sites ADD COLUMN gauge TEXT NOT NULL DEFAULT '{}';
-- What else is known of the tooth and its patient, by name, as JSON.
ALTER TABLE sites ADD COLUMN facts TEXT NOT NULL DEFAULT '[]';
