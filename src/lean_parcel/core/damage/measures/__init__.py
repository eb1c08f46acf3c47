"""The seven measures, each from what `view` has of two pictures; and all of them `together`.

Imports `kinds`.
"""
