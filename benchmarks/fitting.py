"""Searching one file, for the other benchmarks."""

from concurrent.futures import Executor

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.original.source import Limits
from lean_parcel.work.packing.one_file import FileFit, fitting


def fit_file(executor: Executor, name: str, data: bytes, aim: Aim, slots: int = 2) -> FileFit:
    """What is found for a file as it is framed by its place alone."""
    with fitting(executor, Treatment(framing=Framing(), aim=aim), Limits(), slots) as search:
        return search.fit(name, data)
