-- An original that is stored turned lies on its side once its metadata is taken out, and was offered
-- like that. Which are turned only their files tell: all that were offered without their metadata
-- are looked at again, but for those that were taken.
CREATE TEMP TABLE doubtful AS
SELECT id FROM encode
WHERE json_extract(settings, '$.pass_through') AND NOT json_extract(settings, '$.keeps_metadata')
  AND id NOT IN (SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL);
UPDATE search SET state = 'running', error_message = NULL
WHERE state = 'done' AND id IN (
  SELECT search_id FROM candidate WHERE encode_id IN (SELECT id FROM doubtful));
DELETE FROM candidate WHERE encode_id IN (SELECT id FROM doubtful);
DELETE FROM encode WHERE id IN (SELECT id FROM doubtful);
DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob);
DROP TABLE doubtful;
