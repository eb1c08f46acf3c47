"""Sharing out the bytes of a page: which of the measured encodes each photo gets, how sure that is,
and which encodes would tell more. Imports `candidates`.
"""
