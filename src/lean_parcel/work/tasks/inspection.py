"""The task that inspects an original."""

from dataclasses import dataclass

from lean_parcel.core.encoding.encoders import segment_costs
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.policy import POLICY_NAMES, MetadataPolicy, segments_for
from lean_parcel.core.metadata.reading import find_credit, read_metadata
from lean_parcel.core.metadata.values import Credit, Segments
from lean_parcel.core.original.findings import Finding, find
from lean_parcel.core.original.photo import open_photo, orientation_of
from lean_parcel.core.original.picture_kind import classify
from lean_parcel.core.original.preview import open_preview
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import small_webp


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspected:
    """What was found in an original: findings, whether it is a photograph, the credit, a reduced
    copy, and for each metadata policy what it lets through and the bytes that this adds to a file
    of each format."""

    findings: tuple[Finding, ...]
    is_photograph: bool
    credit: Credit
    preview_webp: bytes
    segments: dict[MetadataPolicy, Segments]
    costs: dict[MetadataPolicy, dict[Format, int]]


def inspect_task(data: bytes, name: str, credit: Credit, limits: Limits) -> Inspected:
    """Inspects an original; `credit` is used where the file names nobody. Raises a PhotoError."""
    source, image = open_photo(data, name, limits)
    metadata = read_metadata(data, source.format)
    found = find_credit(metadata)
    credit = found if found.line else credit
    preview = open_preview(data, name, limits, source)
    segments = {policy: segments_for(policy, metadata, credit) for policy in POLICY_NAMES}
    kind = classify(preview)
    return Inspected(
        findings=find(data, name, source, orientation_of(image), metadata, credit, kind),
        is_photograph=kind.name == "photo" and not kind.uses_alpha,
        credit=credit,
        preview_webp=small_webp(preview, preview.shape[1]),
        segments=segments,
        costs={policy: segment_costs(allowed) for policy, allowed in segments.items()},
    )
