"""Routes of words and choices that are the same for every photo."""

from dataclasses import asdict

from lean_parcel.core.damage.kinds import KIND_NAMES, KIND_SENTENCES, KINDS
from lean_parcel.core.decisions.aim import typed_aim, typed_size
from lean_parcel.core.encoding.knobs import KNOBS
from lean_parcel.core.formats import FORMAT_NAMES, FORMATS, UNIVERSAL_FORMATS
from lean_parcel.core.likeness.levels import LEVELS
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import TypedRequest
from lean_parcel.web.responses.terms import (
    FormatResponse,
    KindResponse,
    KnobsResponse,
    TermsResponse,
    TypedAimResponse,
    TypedSizeResponse,
)
from lean_parcel.web.served import workspace

routes = JsonRoutes("terms", "/api")


@routes.route("get", "/terms")
def list_terms() -> TermsResponse:
    """Formats, levels of likeness, kinds of damage, and whether anything can be changed."""
    return TermsResponse(
        formats=[
            FormatResponse(
                format=name, name=FORMAT_NAMES[name], is_universal=name in UNIVERSAL_FORMATS
            )
            for name in FORMATS
        ],
        likeness_levels=list(LEVELS),
        damage_kinds=[
            KindResponse(kind=kind, name=KIND_NAMES[kind], sentence=KIND_SENTENCES[kind])
            for kind in KINDS
        ],
        is_read_only=workspace().context.is_read_only,
    )


@routes.route("post", "/typed-aims")
def read_aim(typed: TypedRequest) -> TypedAimResponse:
    """What a size or a likeness comes to that somebody typed."""
    return TypedAimResponse.model_validate(asdict(typed_aim(typed.text)))


@routes.route("post", "/typed-sizes")
def read_size(typed: TypedRequest) -> TypedSizeResponse:
    """The bytes of a size that somebody typed."""
    return TypedSizeResponse(size_bytes=typed_size(typed.text))


@routes.route("get", "/knobs")
def list_knobs() -> KnobsResponse:
    """What can be changed in each format."""
    return KnobsResponse(formats=KNOBS)
