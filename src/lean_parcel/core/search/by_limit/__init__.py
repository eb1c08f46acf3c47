"""The search by limit: for a format and a limit in bytes, the candidate that looks best.

`search` is the whole of it. `survey` tells which mode and pixel count are worth fitting, `refining`
looks between the measured pixel counts, and `fitting` finds the candidate there; `state` has what
they all know, and how far a search goes.
"""
