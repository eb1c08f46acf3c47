"""One photo: adding it, changing what is decided about it, showing it, tuning it, handing out its
files.
"""
