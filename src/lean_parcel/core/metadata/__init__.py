"""What a file carries beside its picture: reading EXIF, XMP, IPTC and ICC, deciding what travels
on, and embedding it in a finished file. Imports nothing of the core but its root.
"""
