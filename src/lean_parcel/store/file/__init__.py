"""The file itself: who holds it, and in words what is wrong with it."""
