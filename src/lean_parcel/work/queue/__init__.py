"""One queue for all work: which task goes next, and the worker processes that run it."""
