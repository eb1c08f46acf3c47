"""Likeness: how much a candidate, standing in its place, still looks like the framed original."""

from lean_parcel.core.likeness.reference import DARK, LIGHT, Reference

__all__ = ["DARK", "LIGHT", "Reference"]
