"""Faults drawn by chance from the source of a package, or chosen by hand."""

import random
import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.operators.operator import Operator

from tools.mutants.operators import operators


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """A fault: the module, by its path below the source; its whole text with the fault; and the
    line where it begins, as it was and as it is."""

    module: str
    text: str
    line: int
    was: str
    is_now: str

    def __str__(self) -> str:
        return f"{self.module}:{self.line}: {self.was}  ->  {self.is_now}"


def drawn(source: Path, modules: list[str], count: int, seed: int) -> list[Fault]:
    """So many faults of these modules, each on a line of its own."""
    chance = random.Random(f"{seed} {modules[0]}")
    places: dict[tuple[str, int], list[tuple[Operator, int]]] = {}
    for module in modules:
        code = (source / module).read_text()
        nodes = list(ast_nodes(get_ast(code)))
        for operator in operators():
            for occurrence, line in enumerate(_lines(nodes, operator)):
                places.setdefault((module, line), []).append((operator, occurrence))
    faults = []
    for module, line in chance.sample(sorted(places), len(places)):
        fault = _made(source, module, *chance.choice(places[module, line]))
        if fault:
            faults.append(fault)
        if len(faults) == count:
            break
    return faults


def listed(source: Path, path: Path) -> list[Fault]:
    """The faults that are listed in a file, each of a passage that stands once in its module."""
    faults = []
    for each in tomllib.loads(path.read_text())["fault"]:
        code = (source / each["module"]).read_text()
        before, *after = code.split(each["was"])
        if len(after) != 1:
            raise SystemExit(f"{each['module']} has not once: {each['was']}")
        faults.append(
            Fault(
                module=each["module"],
                text=before + each["is_now"] + after[0],
                line=before.count("\n") + 1,
                was=" ".join(each["was"].split()),
                is_now=" ".join(each["is_now"].split()),
            )
        )
    return faults


def _lines(nodes: list[Any], operator: Operator) -> list[int]:
    return [start[0] for node in nodes for start, _ in operator.mutation_positions(node)]


def _is_about_nothing_done(was: str, is_now: str) -> bool:
    """Whether a change is of how code is written or helped, not of what it does: a decorator, the
    marks of a signature, `strict` of a zip, the help of an option."""
    kinds = ("strict=", "help=", "metavar=")
    is_helped = any(kind in was and kind not in is_now for kind in kinds)
    is_signature = was.replace("*,", "/,") == is_now.replace("*,", "/,")
    return was.startswith("@") or is_signature or is_helped


def _made(source: Path, module: str, operator: Operator, occurrence: int) -> Fault | None:
    code = (source / module).read_text()
    text = mutate_code(code, operator, occurrence)
    if not text or text == code:
        return None
    try:
        compile(text, module, "exec")
    except SyntaxError:
        return None
    before, after = code.splitlines(), text.splitlines()
    at = next(i for i, (a, b) in enumerate(zip(before, after, strict=False)) if a != b)
    if _is_about_nothing_done(before[at].strip(), after[at].strip()):
        return None
    return Fault(
        module=module, text=text, line=at + 1, was=before[at].strip(), is_now=after[at].strip()
    )
