"""The workspace at work: joins `core` and `store`, and hands tasks to worker processes.

`workspace` opens and closes it. `photos` and `pages` do and show what a person asks for; `searches`
has the searches under way; `queue` decides whose turn it is, and `tasks` is what runs in workers.
Web and command line both call this layer.
"""
