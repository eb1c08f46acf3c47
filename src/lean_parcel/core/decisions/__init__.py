"""What a person decides about one photo: its aim, its whole state, the acts that change it, and the
journal of what was changed. Imports `picture` to `framing`, and no encoder.
"""
