-- How the patient's lower jaw moves, as core/jaw/articulator reads it; null: only the bite is looked at.
ALTER TABLE cases ADD COLUMN movements TEXT;
