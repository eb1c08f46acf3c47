"""What happens to a photo before it is encoded: the place where it stands, the framing that a
person decides, the plan that follows from both, and the framed pixels. Imports `picture` to
`original`.
"""
