-- Steps on many photos at once: each photo's entry names the entry of the pages with which it was
-- made. Places and treatments are part of the layout, so that acts on them are undone too. Strengths
-- of damage are on one scale for all kinds now, and are found out again when they are looked at.
ALTER TABLE entry ADD COLUMN step_id INTEGER REFERENCES entry (id) ON DELETE SET NULL;
CREATE INDEX entry_by_step ON entry (step_id) WHERE step_id IS NOT NULL;

UPDATE entry SET state = json_set(
  state,
  '$.places', json((
    SELECT json_group_array(json_object(
      'id', id, 'name', name,
      'place', json_object('css_width_px', css_width_px, 'css_height_px', css_height_px,
        'fit', fit, 'density', density)))
    FROM (SELECT * FROM place ORDER BY id))),
  '$.treatments', json('[
    {"id": 1, "name": "No visible change, all pixels", "treatment": {
      "framing": {"size": {"by": "percent", "percent": 100}},
      "aim": {"place": {"css_width_px": 1200}, "limit_bytes": 5000000, "likeness": 90}}},
    {"id": 2, "name": "Banner, sharp on dense screens", "treatment": {
      "framing": {"sharpen": {"amount_percent": null}},
      "aim": {"place": {"css_width_px": 1440, "css_height_px": 600, "density": 2},
        "limit_bytes": 250000}}},
    {"id": 3, "name": "Picture for an e-mail", "treatment": {
      "framing": {"sharpen": {"amount_percent": null}},
      "aim": {"place": {"css_width_px": 600, "density": 2}, "limit_bytes": 100000,
        "formats": ["jpeg", "png"]}}},
    {"id": 4, "name": "Card", "treatment": {
      "framing": {"sharpen": {"amount_percent": null}},
      "aim": {"place": {"css_width_px": 380, "css_height_px": 285, "density": 2},
        "limit_bytes": 40000}}}]'))
WHERE photo_id IS NULL;
DROP TABLE place;

DELETE FROM damage;

-- Photos that are weighed as one batch, in the order of their page, under the words that began it.
CREATE TABLE batch (
  id INTEGER PRIMARY KEY,
  page_id INTEGER NOT NULL UNIQUE,
  words TEXT NOT NULL,
  begun_at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
CREATE TABLE batch_photo (
  batch_id INTEGER NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
  photo_id INTEGER NOT NULL REFERENCES photo (id) ON DELETE CASCADE,
  PRIMARY KEY (batch_id, photo_id)
) STRICT;
