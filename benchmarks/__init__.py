"""Measurements: what `make bench` prints, and what the core's tables were made from."""
