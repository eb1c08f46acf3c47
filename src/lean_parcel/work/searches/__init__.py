"""Searches under way: those of one photo in several formats side by side, the run that carries them
out and stores what they find, and the runs of all photos.
"""
