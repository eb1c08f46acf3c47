"""The person's own eye: blind rounds, what comes of them by chance, and the threshold of noticing.

Values only; chance comes in as a generator. Imports nothing of the core.
"""
