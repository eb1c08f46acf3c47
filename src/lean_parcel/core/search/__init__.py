"""The search in one format for what is aimed for: the lightest file that looks as it should within
a limit, or else the best looking one.

Sans I/O: a search is a generator that yields a trial, is sent what was measured of it, and returns
its candidate (`protocol`). So the same search runs on worker processes and on fake encoders in
tests. Read `search` first: it chooses among all encodes that there are (`modes`, at the pixel
counts of the `ladder`, measured by `sizing`), by what the `picture_model` expects of them: two
Gaussian processes (`process`), begun from what an average picture comes to (`calibrated`). Of large
pictures a `part` is drafted. Imports `candidates` and what it needs.
"""
