"""Treatments as JSON files, in an open format with a published schema: docs/treatment.schema.json.

`python -m lean_parcel.work.treatment_file` prints the schema; `make check` fails where it has
drifted.
"""

import json
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, ValidationError, model_validator

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.earlier import with_one_size
from lean_parcel.core.decisions.treatment import Single, Treatment
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.framing.framing import Framing


class TreatmentFile(BaseModel):
    """A treatment of Lean Parcel: framing and aim under a name. `single` has what depends on one
    picture, and is usually left out."""

    model_config = ConfigDict(title="Lean Parcel treatment")

    kind: Literal["lean-parcel-treatment"] = "lean-parcel-treatment"
    version: Literal[1, 2, 3] = 3
    name: str
    framing: Framing
    aim: Aim
    single: Single | None = None

    @model_validator(mode="before")
    @classmethod
    def _as_now(cls, values: Any) -> Any:
        """A file of the first version, where a limit beside a likeness was only remembered, or of
        the second, where a place had no size as it is typed."""
        if not isinstance(values, dict) or values.get("version") not in (1, 2):
            return values
        aim = values.get("aim")
        if values["version"] == 1 and isinstance(aim, dict) and aim.get("likeness") is not None:
            aim = {**aim, "limit_bytes": None}
        try:
            return with_one_size({**values, "version": 3, "aim": aim})
        except (AttributeError, KeyError, TypeError, ValueError):
            return {**values, "version": 3}  # what is wrong with it is told as of any file

    @classmethod
    def of(cls, name: str, treatment: Treatment) -> "TreatmentFile":
        """From a treatment and its name."""
        return cls(name=name, framing=treatment.framing, aim=treatment.aim, single=treatment.single)

    @property
    def treatment(self) -> Treatment:
        """The treatment in the file."""
        return Treatment(framing=self.framing, aim=self.aim, single=self.single)


def read_treatment(text: str | bytes) -> TreatmentFile:
    """A treatment from a file. Raises UsageError `invalid_treatment`, with the field that is
    wrong."""
    try:
        return TreatmentFile.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "the file"
        raise UsageError(
            f"This is no treatment: {where}: {first['msg']}.", "invalid_treatment"
        ) from error
    except LeanParcelError as error:
        raise UsageError(f"This is no treatment: {error.message}", "invalid_treatment") from error


def schema() -> str:
    """The JSON schema of treatment files."""
    return json.dumps(TreatmentFile.model_json_schema(), indent=2)


if __name__ == "__main__":
    print(schema())
