-- Likeness is measured on whole pixels of the coarsest scale, and of dense pictures as they are seen:
-- framed pixels know how many of them are judged as a CSS pixel. What was measured otherwise is
-- measured again: an encode that was taken here, the others by the searches that made them, which
-- run again. Damage is found out again when somebody looks.
UPDATE framed SET plan = json_set(plan, '$.density', coalesce((
    SELECT max(judged_density(entry.state, search.density, json_extract(plan, '$.width_px'),
      json_extract(plan, '$.height_px')))
    FROM search JOIN entry USING (photo_id)
    WHERE search.framed_id = framed.id AND entry.visited = (
      SELECT max(visited) FROM entry AS visit WHERE visit.photo_id = search.photo_id)), 1.0));

CREATE TEMP TABLE otherwise AS
SELECT id, json_extract(plan, '$.density') AS density, json_extract(plan, '$.gamut') AS gamut
FROM framed
WHERE json_extract(plan, '$.density') > 1
  OR json_extract(plan, '$.width_px') % 32 OR json_extract(plan, '$.width_px') < 256
  OR json_extract(plan, '$.height_px') % 32 OR json_extract(plan, '$.height_px') < 256;
CREATE TEMP TABLE wrong AS
SELECT encode.id, encode.id IN (
    SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL
    UNION SELECT json_extract(pick.value, '$.encode_id')
      FROM entry, json_each(entry.state, '$.variant_picks') AS pick
      WHERE entry.photo_id IS NOT NULL) AS was_taken
FROM encode WHERE framed_id IN (SELECT id FROM otherwise)
  AND json_extract(settings, '$.pass_through') IS NULL;

UPDATE encode SET likeness = coalesce((
    SELECT likeness_of(pixels.data, file.data, encode.settings, otherwise.gamut, otherwise.density)
    FROM otherwise JOIN framed USING (id)
      JOIN blob AS pixels ON pixels.sha256 = framed.pixels_sha256
      JOIN blob AS file ON file.sha256 = encode.file_sha256
    WHERE otherwise.id = encode.framed_id), likeness)
WHERE id IN (SELECT id FROM wrong WHERE was_taken);

UPDATE search SET state = 'running', error_message = NULL
WHERE state = 'done' AND framed_id IN (SELECT id FROM otherwise);
UPDATE search_format SET state = 'running', encodes = 0, error_message = NULL
WHERE search_id IN (
  SELECT id FROM search WHERE state = 'running' AND framed_id IN (SELECT id FROM otherwise));
DELETE FROM candidate WHERE encode_id IN (SELECT id FROM wrong) OR search_id IN (
  SELECT id FROM search WHERE state = 'running' AND framed_id IN (SELECT id FROM otherwise));
DELETE FROM encode WHERE id IN (SELECT id FROM wrong WHERE NOT was_taken);
DELETE FROM estimate WHERE framed_id IN (SELECT id FROM otherwise);
DELETE FROM damage;
UPDATE framed SET search_input = json_set(search_input, '$.is_measured', json('false'),
  '$.rungs', json_array(json(json_extract(search_input, '$.rungs[0]'))))
WHERE id IN (SELECT id FROM otherwise);
DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob);
DROP TABLE wrong;
DROP TABLE otherwise;
