"""Answers that say what values have, under the same names."""

from typing import Any, Self

from pydantic import BaseModel


class Told(BaseModel):
    """An answer whose fields are those of values, but for what it adds."""

    @classmethod
    def of_all(cls, *values: object, **added: Any) -> Self:
        """Each field is added, or that of the first of the values that has it."""
        fields = dict(added)
        for value in values:
            for name in cls.model_fields.keys() - fields.keys():
                if hasattr(value, name):
                    fields[name] = getattr(value, name)
        return cls(**fields)
