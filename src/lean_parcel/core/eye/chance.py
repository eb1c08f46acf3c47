"""How likely an outcome is for somebody who guesses: binomial, with a half for each side."""

from math import comb


def at_least(right: int, rounds: int) -> float:
    """The probability that a guess is right in at least so many rounds, 0 to 1."""
    return float(sum(comb(rounds, k) for k in range(right, rounds + 1)) / 2**rounds)


def as_uneven(first: int, rounds: int) -> float:
    """The probability that guesses are spread at least as unevenly over two sides, 0 to 1."""
    most = max(first, rounds - first)
    return min(1.0, 2 * at_least(most, rounds))
