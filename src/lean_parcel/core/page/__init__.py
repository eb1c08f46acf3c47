"""Pages: which photos stand on them, in which order, under which names and by which default aim;
places and treatments to choose from; the acts that change all that, and the totals of a page.
Imports `decisions`.
"""
