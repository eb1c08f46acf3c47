"""The simulated site: the page in which delivered files stand, made up for this project."""
