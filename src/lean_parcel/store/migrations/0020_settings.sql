-- A page has settings, and a photo follows its page in all that was not decided for it alone:
-- before, a page could have an aim for all.

UPDATE entry SET state = with_page_settings(state) WHERE photo_id IS NULL;
UPDATE entry SET state = with_follows(
  state, photo_id, (SELECT is_photograph FROM photo WHERE photo.id = entry.photo_id),
  (SELECT state FROM entry WHERE photo_id IS NULL ORDER BY visited DESC LIMIT 1))
WHERE photo_id IS NOT NULL;
