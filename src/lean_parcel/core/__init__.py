"""The rules of the job and its computation: bytes, arrays and numbers in, values out.

No interface, database, clock, environment or global state: seeds, deadlines and callbacks come in
as parameters. The packages stand in the order of the work, and each imports only those before it
(`pyproject.toml` has the order, `make check` enforces it):

picture, metadata, original, framing, encoding, likeness, decisions, candidates, search, page,
packing. Beside them are what all of them use: `errors`, `arrays`, `formats` and `size`.
"""
