-- What was found in an encode; it goes with it. `maps` are the codes of all kinds in their order, and
-- of how unlike each cell is,
-- (kinds, rows, columns), compressed with zlib; `flip` is the mean of that metric, 0 for identical.
CREATE TABLE damage (
  encode_id INTEGER PRIMARY KEY REFERENCES encode (id) ON DELETE CASCADE,
  strengths TEXT NOT NULL CHECK (json_valid(strengths)),
  verdict TEXT NOT NULL,
  worst_kind TEXT,
  worst_strength REAL NOT NULL,
  flip REAL NOT NULL CHECK (flip BETWEEN 0 AND 1),
  map_rows INTEGER NOT NULL CHECK (map_rows > 0),
  map_columns INTEGER NOT NULL CHECK (map_columns > 0),
  maps BLOB NOT NULL
) STRICT;
