"""Tables of what boards show, worked out beside the pages that ask for them."""

import threading

from frostcore.bench.judge import BenchJudgement, judge_board
from frostcore.bench.ladder import mains_of
from frostcore.sheet.supply import BoardSupply
from frostline.calls.judging import in_background

PATIENCE = 0.2
"""So many seconds a page waits for what is being worked out."""

_working: dict[tuple[BoardSupply, float, bool], threading.Thread] = {}
_ready: set[tuple[BoardSupply, float, bool]] = set()
_lock = threading.Lock()


def judgement_of(supply: BoardSupply, mains: float, *, esr: bool) -> BenchJudgement | None:
    """The judgement of a board nothing has been read of, with the mains here; None while its table is being
    worked out, which takes some seconds the first time in each of the server's processes."""
    return _judgement(supply, mains, esr=esr, wait=False)


def judgement_now(supply: BoardSupply, mains: float, *, esr: bool) -> BenchJudgement:
    """The same, waited for: what was typed is never turned away because another process knew more."""
    found = _judgement(supply, mains, esr=esr, wait=True)
    assert found is not None  # noqa: S101 -- it has been waited for
    return found


def _judgement(supply: BoardSupply, mains: float, *, esr: bool, wait: bool) -> BenchJudgement | None:
    key = (supply, mains_of(mains), esr)
    if key not in _ready and in_background.is_set():
        with _lock:
            if key not in _working:
                _working[key] = threading.Thread(target=_work_out, args=key, name="bench", daemon=True)
                _working[key].start()
            working = _working[key]
        working.join(None if wait else PATIENCE)
        if key not in _ready and not wait:
            return None
    return judge_board(supply, (), mains_of(mains), measured=mains, esr=esr)


def _work_out(supply: BoardSupply, mains: float, esr: bool) -> None:
    try:
        judge_board(supply, (), mains, esr=esr)
        _ready.add((supply, mains, esr))
    finally:
        with _lock:
            _working.pop((supply, mains, esr), None)
