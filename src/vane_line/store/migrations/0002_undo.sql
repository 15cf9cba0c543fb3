-- An undo says which revision it went back to, so that undoing again goes one further.
ALTER TABLE edits ADD COLUMN returns_to INTEGER;
