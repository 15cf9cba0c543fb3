-- Whether the tooth is root-filled: a standing cusp beside a cavity then needs more.
ALTER TABLE sites ADD COLUMN root_filled INTEGER NOT NULL DEFAULT 0;
