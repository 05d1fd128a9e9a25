"""Tables of what boards show, worked out beside the pages that ask for them."""

from frostcore.bench.judge import BenchJudgement, judge_board
from frostcore.bench.supplies import mains_of
from frostcore.sheet.supply import BoardSupply
from frostline.calls.judging import in_background
from frostline.ui.background import WorkedOut


def judgement_of(supply: BoardSupply, mains: float, *, esr: bool) -> BenchJudgement | None:
    """The judgement of a board nothing has been read of, with the mains here; None while its table is being
    worked out, which takes some seconds the first time in each of the server's processes. FrostError for a
    supply that can't be."""
    return _judgement(supply, mains, esr=esr, wait=False)


def judgement_now(supply: BoardSupply, mains: float, *, esr: bool) -> BenchJudgement:
    """The same, waited for: what was typed is never turned away because another process knew more."""
    found = _judgement(supply, mains, esr=esr, wait=True)
    assert found is not None  # noqa: S101 -- it has been waited for
    return found


def _judgement(supply: BoardSupply, mains: float, *, esr: bool, wait: bool) -> BenchJudgement | None:
    if _tables.get((supply, mains_of(mains), esr), wait=wait) is None:
        return None
    return judge_board(supply, (), mains_of(mains), measured=mains, esr=esr)


def _work_out(asked: tuple[BoardSupply, float, bool]) -> bool:
    """A table is made; itself it is kept by the core, for the last of them."""
    supply, mains, esr = asked
    judge_board(supply, (), mains, esr=esr)
    return True


_tables = WorkedOut(
    _work_out,
    in_background,
    before="This supply can’t be worked out",
    sorry="This supply can’t be worked out: its parts and what they make do not fit together.",
)
