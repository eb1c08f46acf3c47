"""Encodes that are worth comparing: what was tried and measured, how candidates rank, the frontier
of bytes against likeness, the original passed through, and the summary in words. Imports `picture`
to `decisions`, but no encoder.
"""
