-- A candidate may be a better one in the place of another, found once the search had ended.
ALTER TABLE candidate ADD COLUMN improves_id INTEGER REFERENCES encode (id) ON DELETE SET NULL;
