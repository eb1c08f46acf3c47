"""The faults that are planted: Cosmic Ray's operators, and three that leave something out, as
people do who forget it.
"""

from collections.abc import Iterator
from typing import Any

from cosmic_ray.operators.operator import Operator
from cosmic_ray.plugins import get_operator
from parso.python.tree import Keyword

_Position = tuple[tuple[int, int], tuple[int, int]]

_SWAPPED = [
    "ReplaceBinaryOperator_Add_Sub",
    "ReplaceBinaryOperator_Sub_Add",
    "ReplaceBinaryOperator_Mul_Div",
    "ReplaceBinaryOperator_Div_Mul",
    "ReplaceBinaryOperator_FloorDiv_Mul",
    "ReplaceComparisonOperator_Lt_LtE",
    "ReplaceComparisonOperator_LtE_Lt",
    "ReplaceComparisonOperator_Gt_GtE",
    "ReplaceComparisonOperator_GtE_Gt",
    "ReplaceComparisonOperator_Eq_NotEq",
    "ReplaceComparisonOperator_NotEq_Eq",
    "ReplaceComparisonOperator_Is_IsNot",
    "ReplaceComparisonOperator_IsNot_Is",
    "ReplaceTrueWithFalse",
    "ReplaceFalseWithTrue",
    "ReplaceAndWithOr",
    "ReplaceOrWithAnd",
    "ReplaceUnaryOperator_Delete_Not",
    "ReplaceUnaryOperator_USub_UAdd",
    "AddNot",
    "ReplaceBreakWithContinue",
    "ReplaceContinueWithBreak",
    "ZeroIterationForLoop",
    "NumberReplacer",
    "ExceptionReplacer",
]


class _LeavesOut(Operator):
    """One position a node, at which something is left out."""

    @classmethod
    def examples(cls) -> tuple[()]:
        return ()

    def mutation_positions(self, node: Any) -> Iterator[_Position]:
        for _ in self.left_out(node):
            yield node.start_pos, node.end_pos

    def left_out(self, node: Any) -> list[int]:
        """What of the node's children can be left out."""
        raise NotImplementedError


class StatementLeftOut(_LeavesOut):
    """A call for its effect, a value that is set, or an error that is raised: `pass` instead."""

    def left_out(self, node: Any) -> list[int]:
        if node.type != "simple_stmt":
            return []
        act = node.children[0]
        is_call = act.type == "atom_expr" and act.children[-1].get_first_leaf().value == "("
        is_set = act.type == "expr_stmt" and act.children[0].type == "atom_expr"
        is_log = act.get_first_leaf().value == "_log"
        return [0] if (is_call or is_set or act.type == "raise_stmt") and not is_log else []

    def mutate(self, node: Any, index: int) -> Any:
        first = node.children[0].get_first_leaf()
        node.children[0] = Keyword("pass", first.start_pos, first.prefix)
        return node


class ContextLeftOut(_LeavesOut):
    """The last of several contexts that a `with` enters, where nothing has its value: a
    transaction, a lock."""

    def left_out(self, node: Any) -> list[int]:
        if node.type != "with_stmt" or len(node.children) < 6:
            return []
        last = node.children[-3]
        return [] if last.type == "with_item" else [len(node.children) - 3]

    def mutate(self, node: Any, index: int) -> Any:
        del node.children[-4:-2]
        return node


class ArgumentLeftOut(_LeavesOut):
    """A named argument of a function: its default instead. A class mostly has none."""

    def left_out(self, node: Any) -> list[int]:
        if node.type != "arglist":
            return []
        name = node.parent.get_previous_sibling() or node.parent.parent.children[0]
        if name.get_last_leaf().value.strip("_")[:1].isupper():
            return []
        children = node.children
        named = [i for i, each in enumerate(children) if each.type == "argument"]
        return [i for i in named if i and children[i].children[1].get_first_leaf().value == "="]

    def mutate(self, node: Any, index: int) -> Any:
        at = self.left_out(node)[index]
        del node.children[at - 1 : at + 1]
        return node


def operators() -> list[Operator]:
    """All of them."""
    swapped = [get_operator(f"core/{name}")() for name in _SWAPPED]
    return [*swapped, StatementLeftOut(), ContextLeftOut(), ArgumentLeftOut()]
