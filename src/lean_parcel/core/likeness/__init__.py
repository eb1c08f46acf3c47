"""Likeness: how much a candidate, in its place, still looks like the framed original.

SSIMULACRA 2, the reference it is compared with, and the levels that say it in words. Imports
`picture`.
"""
