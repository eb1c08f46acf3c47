"""Response models of pages, what is decided for many photos, and what is handed over."""
