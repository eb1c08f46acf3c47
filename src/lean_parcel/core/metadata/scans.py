"""The scans of a progressive JPEG (ITU-T T.81, G.1): after how many bytes all of the picture can be
shown for the first time."""

from lean_parcel.core.metadata.containers import jpeg_parts

_SOF_PROGRESSIVE, _SOS = b"\xc2", b"\xda"


def first_picture_bytes(data: bytes) -> int | None:
    """Bytes up to the end of the scan with which every component has its first coefficients; None
    for what is no progressive JPEG, whose picture comes in from the top, and for one whose scans
    are damaged."""
    missing: set[int] | None = None
    for part in jpeg_parts(data):
        payload = data[part.payload_start : part.end]
        if part.kind == _SOF_PROGRESSIVE and len(payload) >= 6:
            count = payload[5]
            missing = set(payload[6 : 6 + 3 * count : 3])
        if part.kind == _SOS and missing is not None:
            count = payload[0] if payload else 0
            components = payload[1 : 1 + 2 * count : 2]
            starts_at = payload[1 + 2 * count : 2 + 2 * count]
            if not starts_at:
                return None
            if starts_at == b"\0":
                missing -= set(components)
            if not missing:
                return part.end
    return None
