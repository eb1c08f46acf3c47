"""Pixels: boxes and orientations, resampling, sharpening, margins, colour gamuts, and pixels
as bytes.

Pixels are 8-bit arrays, shape (H, W, 3), or (H, W, 4) with straight alpha, in sRGB or Display P3.
Imports nothing of the core but its root.
"""
