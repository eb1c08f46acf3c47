"""Findings on an original."""

from pydantic import BaseModel

from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.policy import POLICY_NAMES, MetadataPolicy
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.findings import Finding
from lean_parcel.core.picture.box import Box
from lean_parcel.store.inspections import Inspection
from lean_parcel.web.responses.told import Told


class PolicyResponse(Told):
    """A metadata policy, what it is called, and the bytes that it adds to a file of each format."""

    policy: MetadataPolicy
    name: str
    costs: dict[Format, int]


class FindingsResponse(Told):
    """What was found in an original."""

    findings: list[Finding]
    credit: Credit
    policies: list[PolicyResponse]

    @classmethod
    def of(cls, findings: tuple[Finding, ...], inspection: Inspection) -> "FindingsResponse":
        """From what the workspace shows."""
        return cls.of_all(
            inspection,
            findings=findings,
            policies=[
                PolicyResponse.of_all(choice, name=POLICY_NAMES[choice.policy])
                for choice in inspection.choices
            ],
        )


class MarginsResponse(BaseModel):
    """What lies inside the empty margins, in the turned picture; null without any."""

    box: Box | None
