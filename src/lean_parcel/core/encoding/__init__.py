"""Encoders and their settings: which there are, what can be turned, and the bytes that come of it.

`settings`, `qualities` and `knobs` are plain values; only `encoders` loads the encoders. Imports
`picture` and `metadata`.
"""
