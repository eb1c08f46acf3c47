"""Work that nobody has asked for yet: done for a photo while somebody looks at it and no worker is
needed for anything else.
"""
