-- Whether the tooth is dark: a veneer over it then needs more room.
ALTER TABLE sites ADD COLUMN dark INTEGER NOT NULL DEFAULT 0;
