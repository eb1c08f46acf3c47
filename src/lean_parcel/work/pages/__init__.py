"""All pages: changing them, showing them, and the list of places."""
