-- An encode is found by the version of its encoder's options too. Grey pictures are JPEGs of one
-- component and AVIFs without chroma now: what was made of them before is of version 1. An encode
-- that was not to be found any more stays so, with no version. Settings have new fields.
ALTER TABLE encode ADD COLUMN version INTEGER;
UPDATE encode SET version = CASE
  WHEN json_extract(settings, '$.pass_through') THEN 1
  WHEN json_extract(settings, '$.format') IN ('webp', 'png') THEN 1
  WHEN (SELECT coalesce(json_extract(search_input, '$.is_grey'), 0) FROM framed
    WHERE framed.id = framed_id) THEN 1
  ELSE 2 END
WHERE is_current;
DROP INDEX encode_by_trial;
ALTER TABLE encode DROP COLUMN is_current;
UPDATE encode SET settings = replace(settings, '}', ', "repacked": false}')
WHERE json_extract(settings, '$.pass_through');
UPDATE encode SET settings = replace(settings, '{', '{"adaptive": false, ')
WHERE json_extract(settings, '$.format') = 'jpeg' AND json_extract(settings, '$.pass_through') IS NULL;
CREATE UNIQUE INDEX encode_by_trial ON encode (framed_id, settings, width_px, height_px, version);
