"""Searches for the best candidate of a format, by a limit in bytes or by a likeness to reach.

Sans I/O: a search is a generator that yields a trial, is sent what was measured of it, and returns
its candidate (`protocol`). So the same search runs on worker processes and on fake encoders in
tests. What both searches move on is here: pixel counts (`ladder`, measured by `sizing`), quality
steps (`scales`, `curves`), brackets around a step, drafts of a `part`. Imports `candidates` and
what it needs.
"""
