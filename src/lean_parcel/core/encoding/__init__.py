"""Encoders and their settings: which there are, what can be changed in them, and the
bytes of a file.

`settings`, `qualities` and `knobs` are plain values; only `encoders` loads the encoders. Imports
`picture` and `metadata`.
"""
