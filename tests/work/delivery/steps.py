"""What tests hand over."""

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.framing.place import Place
from lean_parcel.work.delivery.planning import PlannedDelivery
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.workspaces import settled

AIM = Aim(
    place=Place(size="48", density=2),
    limit_bytes=5_000,
    likeness=80,
    formats=("jpeg", "webp", "avif"),
    fewer_pixels=False,
)
TWO = Variants(densities=(1,), formats=("webp", "jpeg"), rule="same")


def taken(
    workspace: Workspace,
    *,
    name: str = "img/Röte Tasse.png",
    data: bytes | None = None,
    variants: Variants = TWO,
    seed: int = 1,
) -> int:
    """A photo whose WebP is taken, with its variants made."""
    photo_id = workspace.adding.add_photo(name, data or file(photo(96, 64, seed)), aim=AIM)
    settled(workspace, photo_id)
    change(workspace, photo_id, {"variants": asdict(variants)})
    take(workspace, photo_id, "webp")
    packed(workspace)
    return photo_id


def change(workspace: Workspace, photo_id: int, changes: Mapping[str, Any]) -> None:
    workspace.deciding.do(photo_id, change_aim(changes))


def take(workspace: Workspace, photo_id: int, as_format: str) -> int:
    """Takes what was found in a format."""
    found = settled(workspace, photo_id).encodes.candidates
    encode = next(each for each in found if each.trial.settings.format == as_format)
    workspace.deciding.do(photo_id, pick(encode.id))
    return encode.id


def packed(workspace: Workspace, page_id: int = 1) -> PlannedDelivery:
    """The delivery of a page once nothing of it is being made."""
    seen = -1
    while (delivery := workspace.planning.page(page_id)).running:
        news = workspace.changes.wait(seen, 30)
        assert not news.is_empty, "the variants are not made"
        seen = news.version
    return delivery
