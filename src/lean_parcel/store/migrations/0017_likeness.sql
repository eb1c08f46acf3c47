-- Likeness is measured on whole pixels of the coarsest scale, and of dense pictures as they are seen:
-- framed pixels know how many of them are judged as a CSS pixel. What was measured otherwise is
-- measured again: an encode that was taken here, the others by the searches that made them, which
-- run again. Damage is found out again when somebody looks.
-- Transparent AVIFs have straight alpha now, those in Display P3 say so by numbers, and what is
-- filled with the colour of the page in Display P3 has that colour: such files are made anew. One
-- that was taken stays what was taken, with no version, by which it is not found.
UPDATE framed SET plan = json_set(plan, '$.density', coalesce((
    SELECT max(judged_density(entry.state, search.density, json_extract(plan, '$.width_px'),
      json_extract(plan, '$.height_px')))
    FROM search JOIN entry USING (photo_id)
    WHERE search.framed_id = framed.id AND entry.visited = (
      SELECT max(visited) FROM entry AS visit WHERE visit.photo_id = search.photo_id)), 1.0));

UPDATE framed SET plan = json_set(plan, '$.earlier', 1)
WHERE json_extract(plan, '$.gamut') = 'display-p3'
  AND json_extract(plan, '$.background') IS NOT NULL;

CREATE TEMP TABLE otherwise AS
SELECT id, json_extract(plan, '$.density') AS density, json_extract(plan, '$.gamut') AS gamut,
  json_extract(plan, '$.gamut') IS 'display-p3' AS is_p3,
  coalesce(json_extract(search_input, '$.is_transparent'), 0) AS is_transparent,
  coalesce(json_extract(plan, '$.density') > 1
    OR json_extract(plan, '$.width_px') % 32 OR json_extract(plan, '$.width_px') < 256
    OR json_extract(plan, '$.height_px') % 32 OR json_extract(plan, '$.height_px') < 256, 0)
    AS is_measured_otherwise
FROM framed;
DELETE FROM otherwise WHERE NOT (is_p3 OR is_transparent OR is_measured_otherwise);
CREATE TEMP TABLE wrong AS
SELECT encode.id, encode.id IN (
    SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL
    UNION SELECT json_extract(pick.value, '$.encode_id')
      FROM entry, json_each(entry.state, '$.variant_picks') AS pick
      WHERE entry.photo_id IS NOT NULL) AS was_taken,
  is_measured_otherwise,
  CASE json_extract(settings, '$.format') WHEN 'avif' THEN is_p3 OR is_transparent
    WHEN 'jpeg' THEN is_p3 AND is_transparent ELSE 0 END AS is_made_otherwise
FROM encode JOIN otherwise ON otherwise.id = framed_id
WHERE json_extract(settings, '$.pass_through') IS NULL;
DELETE FROM wrong WHERE NOT (is_measured_otherwise OR is_made_otherwise);

UPDATE encode SET likeness = coalesce((
    SELECT likeness_of(pixels.data, file.data, encode.settings, otherwise.gamut, otherwise.density)
    FROM otherwise JOIN framed USING (id)
      JOIN blob AS pixels ON pixels.sha256 = framed.pixels_sha256
      JOIN blob AS file ON file.sha256 = encode.file_sha256
    WHERE otherwise.id = encode.framed_id), likeness)
WHERE id IN (SELECT id FROM wrong WHERE was_taken AND is_measured_otherwise);
UPDATE encode SET version = NULL
WHERE id IN (SELECT id FROM wrong WHERE was_taken AND is_made_otherwise);

UPDATE search SET state = 'running', error_message = NULL
WHERE state = 'done' AND framed_id IN (SELECT id FROM otherwise);
UPDATE search_format SET state = 'running', encodes = 0, error_message = NULL
WHERE search_id IN (
  SELECT id FROM search WHERE state = 'running' AND framed_id IN (SELECT id FROM otherwise));
DELETE FROM candidate WHERE encode_id IN (SELECT id FROM wrong) OR search_id IN (
  SELECT id FROM search WHERE state = 'running' AND framed_id IN (SELECT id FROM otherwise));
DELETE FROM encode WHERE id IN (SELECT id FROM wrong WHERE NOT was_taken);
DELETE FROM estimate WHERE framed_id IN (SELECT id FROM otherwise WHERE is_measured_otherwise);
DELETE FROM damage;
UPDATE framed SET search_input = json_set(search_input, '$.is_measured', json('false'),
  '$.rungs', json_array(json(json_extract(search_input, '$.rungs[0]'))))
WHERE id IN (SELECT id FROM otherwise WHERE is_measured_otherwise);
DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob);
DROP TABLE wrong;
DROP TABLE otherwise;
