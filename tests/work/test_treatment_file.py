import json
from pathlib import Path

import pytest

from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.treatment import Single, Treatment
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.picture.box import Box
from lean_parcel.work.treatment_file import TreatmentFile, read_treatment, schema

SCHEMA = Path(__file__).parents[2] / "docs/treatment.schema.json"
BOX = Box(left_px=1, top_px=2, width_px=3, height_px=4)


@pytest.mark.parametrize("single", [None, Single(crop=BOX)])
def test_a_treatment_goes_out_and_comes_in_as_it_was(single: Single | None) -> None:
    treatment = Treatment(framing=FIRST_FRAMING, aim=FIRST_AIM, single=single)
    text = TreatmentFile.of("Mine", treatment).model_dump_json()
    read = read_treatment(text)
    assert (read.name, read.treatment) == ("Mine", treatment)


@pytest.mark.parametrize(
    ("version", "likeness", "limit_bytes"), [(1, 80, None), (1, None, 5), (2, 80, 5), (2, None, 5)]
)
def test_a_limit_beside_a_likeness_was_only_remembered_in_the_first_version(
    version: int, likeness: float | None, limit_bytes: int | None
) -> None:
    aim = {"place": {"css_width_px": 9}, "limit_bytes": 5, "likeness": likeness}
    values = {"name": "x", "version": version, "framing": {}, "aim": aim}
    read = read_treatment(json.dumps(values)).treatment.aim
    assert (read.limit_bytes, read.likeness, read.place.size) == (limit_bytes, likeness, "9 px")


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        "{}",
        '{"kind": "another", "version": 1, "name": "x"}',
        '{"name": "x", "framing": {}, "aim": {"place": {"size": "0"}, "limit_bytes": 5}}',
        '{"name": "x", "framing": {}, "aim": {"place": {"css_width_px": 9}, "limit_bytes": 5}}',
        '{"version": 2, "name": "x", "framing": {"size": 7},'
        ' "aim": {"place": {"css_width_px": 9}, "limit_bytes": 5}}',
        '{"version": 2, "name": "x", "framing": {"size": {"by": "percent"}},'
        ' "aim": {"place": {"css_width_px": 9}, "limit_bytes": 5}}',
        '{"name": "x", "framing": {}, "aim": {"place": {"size": "9"}, "limit_bytes": 5,'
        ' "held": {"jpeg": {"colours": 3}}}}',
    ],
)
def test_what_is_no_treatment_is_refused(text: str) -> None:
    with pytest.raises(UsageError) as refused:
        read_treatment(text)
    assert refused.value.code == "invalid_treatment"


def test_the_published_schema_is_that_of_the_files() -> None:
    assert SCHEMA.read_text().rstrip() == schema()
