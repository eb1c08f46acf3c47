"""The workspace: one SQLite file that holds everything, the originals and encoded files included.

One module a table, each query a named constant beside the one function that runs it. Nothing here
knows about the web, the command line, or how a picture is made.
"""
