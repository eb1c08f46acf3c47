"""Stands in the way of the SciPy that a package of the tests brings along."""

raise ImportError("Lean Parcel is installed without SciPy.")
