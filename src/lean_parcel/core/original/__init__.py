"""The file that came in: recognised, opened safely, and described in findings.

Owns every decoder of foreign files. Imports `picture` and `metadata`.
"""
