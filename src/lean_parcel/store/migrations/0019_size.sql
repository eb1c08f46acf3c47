-- A photo has one size, typed as one text: before, a place had CSS pixels, and a framing a size that
-- could overrule them.

UPDATE entry SET state = with_one_size(state) WHERE state LIKE '%"css_width_px"%';
