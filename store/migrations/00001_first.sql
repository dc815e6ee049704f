-- +goose Up
CREATE TABLE part (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  number TEXT NOT NULL DEFAULT '',
  revision TEXT NOT NULL DEFAULT '',
  lot INTEGER NOT NULL DEFAULT 1,
  file TEXT NOT NULL,
  hash TEXT NOT NULL,
  model BLOB NOT NULL,
  created TEXT NOT NULL
) STRICT;
CREATE TABLE plan (
  part_id INTEGER NOT NULL REFERENCES part(id) ON DELETE CASCADE,
  serial INTEGER NOT NULL,
  label TEXT NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (part_id, serial)
) STRICT;
CREATE TABLE cursor (
  part_id INTEGER PRIMARY KEY REFERENCES part(id) ON DELETE CASCADE,
  serial INTEGER NOT NULL,
  version INTEGER NOT NULL,
  FOREIGN KEY (part_id, serial) REFERENCES plan(part_id, serial)
) STRICT;
CREATE TABLE library (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  body TEXT NOT NULL,
  version INTEGER NOT NULL
) STRICT;

-- +goose Down
DROP TABLE library;
DROP TABLE cursor;
DROP TABLE plan;
DROP TABLE part;
