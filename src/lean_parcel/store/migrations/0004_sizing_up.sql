-- What a search has to know is found out in two steps, and the weight as a quick PNG is known of each
-- pixel count. Of what was framed before only the first pixel count stays; the others are measured
-- again by the next search.
UPDATE framed SET subject = json_object(
  'rungs', json_array(json_set(
    json_extract(subject, '$.rungs[0]'),
    '$.quick_png_size_bytes', json_extract(subject, '$.quick_png_size_bytes'))),
  'is_transparent', json(iif(json_extract(subject, '$.is_transparent'), 'true', 'false')),
  'is_sized_up', json('false'));
