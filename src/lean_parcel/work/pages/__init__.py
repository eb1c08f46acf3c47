"""All pages: changing them alone or with many photos, showing them, batches, and the balance."""
