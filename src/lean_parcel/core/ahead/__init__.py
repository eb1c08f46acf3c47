"""What is worth encoding before anybody asks for it, while a photo is looked at: what was found
once more with the slowest settings, and drafts that fill the curves of the chart.

As in `search`, these are generators of trials. Imports `search` and what it needs.
"""
