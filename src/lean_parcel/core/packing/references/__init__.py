"""References to old files in the texts of a site: where they can stand, how they are written, which
file each names, and what takes its place."""
