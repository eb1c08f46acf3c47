-- One word for each thing: what a search needs to know is its input, embedded metadata are segments,
-- a candidate of either aim meets it or not, and an original that goes out as it came is passed
-- through.
ALTER TABLE framed RENAME COLUMN subject TO search_input;
UPDATE framed SET search_input = json_remove(
  json_set(
    search_input, '$.is_measured',
    json(iif(coalesce(json_extract(search_input, '$.is_sized_up'), 1), 'true', 'false'))),
  '$.is_sized_up');
ALTER TABLE encode RENAME COLUMN blocks_sha256 TO segments_sha256;
UPDATE encode SET settings = replace(settings, '"kept"', '"pass_through"')
WHERE json_extract(settings, '$.kept');
ALTER TABLE candidate RENAME COLUMN within_limit TO meets_aim;
