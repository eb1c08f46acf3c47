"""Damage: where a candidate differs from the original in its place, of what kind, and how strongly.

Seven measures, each on a grid of cells; the trouble spots found in them and the verdict in words.
Calibrated and tried as docs/damage.md says. Imports `likeness` and `picture`.
"""
