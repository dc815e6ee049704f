-- +goose Up
CREATE TABLE file (
  part_id INTEGER NOT NULL REFERENCES part(id) ON DELETE CASCADE,
  hash TEXT NOT NULL,
  name TEXT NOT NULL,
  data BLOB NOT NULL,
  PRIMARY KEY (part_id, hash)
) STRICT;

-- +goose Down
DROP TABLE file;
