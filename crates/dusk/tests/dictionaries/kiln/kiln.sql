CREATE TABLE glaze (code TEXT PRIMARY KEY, name TEXT NOT NULL, retired_on TEXT);
INSERT INTO glaze VALUES ('CEL', 'Celadon', NULL), ('TEN', 'Tenmoku', '2024-06-30');
CREATE TABLE firing (
  firing_no VARCHAR(8) PRIMARY KEY,
  fired_on  DATE NOT NULL,
  cone      INTEGER CHECK (cone BETWEEN 1 AND 14),
  glaze     TEXT REFERENCES glaze(code),
  load_kg   DECIMAL(6,2) CHECK (load_kg >= 0),
  outcome   TEXT NOT NULL DEFAULT 'good' CHECK (outcome IN ('good', 'cracked', 'seconds')),
  refired   INTEGER CHECK (refired IN (0, 1)),
  notes     TEXT
);
