-- How a case stands, for the list of cases: the answer in one line, without reading the whole document.
ALTER TABLE judgements ADD COLUMN summary TEXT NOT NULL DEFAULT '';
