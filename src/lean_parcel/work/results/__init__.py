"""What tasks came to, in the store: each kind is stored in one way, whoever asked for it."""
