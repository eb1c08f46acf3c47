"""The file itself: who holds it, which workspace it is, its copies, what is kept beside it, and in
words what is wrong with it."""
