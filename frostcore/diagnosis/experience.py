"""What a workshop's own closed calls teach: how often each kind of part was the cause on units of a kind.

The catalogue stands for so many calls of its own (Dirichlet counts), so that a handful can't drown it:
P(kind) becomes (STRENGTH · p + count) / (STRENGTH + all counts), and every fault of a kind moves with it.
"""

from collections.abc import Mapping

STRENGTH = 40.0
"""So many calls the catalogue stands for."""


def factors(prior: Mapping[str, float], counts: Mapping[str, int]) -> dict[str, float]:
    """By what each kind's chance is to be multiplied; ``prior`` sums to one, counts of kinds that it has not
    say nothing."""
    known = {kind: counts.get(kind, 0) for kind in prior}
    whole = sum(known.values())
    return {
        kind: (STRENGTH * share + known[kind]) / ((STRENGTH + whole) * share)
        for kind, share in prior.items()
        if share > 0
    }
