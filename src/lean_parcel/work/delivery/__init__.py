"""Handing over: the files of a page under their names, as an archive or in a folder, with a packing
list; old references; and the files standing in a page."""
