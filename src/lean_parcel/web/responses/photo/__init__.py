"""One photo: its screens, its findings, its encodes and their damage."""
