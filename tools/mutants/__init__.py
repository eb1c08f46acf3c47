"""How many small faults the tests notice; see `python -m tools.mutants --help`."""
