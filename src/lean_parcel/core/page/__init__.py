"""Pages: which photos stand on them, in which order and under which names, the acts that change
that, and the totals of a page. Imports nothing of the core but its root.
"""
