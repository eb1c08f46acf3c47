"""Routes of pages and of what is done to many photos."""
