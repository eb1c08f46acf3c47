"""Keys of content, which stand in addresses."""


def content_key(sha256: str) -> str:
    """The beginning of a hash, enough to tell contents apart."""
    return sha256[:16]
