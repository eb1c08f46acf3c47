"""Answers that say what values have, under the same names."""

from typing import Any, Self

from pydantic import BaseModel

_NOTHING = object()


class Told(BaseModel):
    """An answer whose fields are those of values, but for what it adds."""

    @classmethod
    def of_all(cls, *values: object, **added: Any) -> Self:
        """Each field is added, or that of the first of the values that has it."""
        fields = dict(added)
        for value in values:
            for name in cls.model_fields.keys() - fields.keys():
                found = getattr(value, name, _NOTHING)
                if found is not _NOTHING:
                    fields[name] = found
        return cls(**fields)
