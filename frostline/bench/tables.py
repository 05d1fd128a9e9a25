"""Tables of what boards show, worked out beside the pages that ask for them."""

import logging
import threading

from frostcore.bench.judge import BenchJudgement, judge_board
from frostcore.bench.supplies import mains_of
from frostcore.errors import FrostError
from frostcore.sheet.supply import BoardSupply
from frostline.calls.judging import in_background

PATIENCE = 0.2
"""So many seconds a page waits for what is being worked out."""

MOST_KEPT = 64

Key = tuple[BoardSupply, float, bool]

_working: dict[Key, threading.Thread] = {}
_ready: set[Key] = set()
_failed: dict[Key, str] = {}
_lock = threading.Lock()
_log = logging.getLogger("frostline.bench")


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
    key = (supply, mains_of(mains), esr)
    if key not in _ready and key not in _failed:
        if not in_background.is_set():
            _work_out(*key)
        else:
            with _lock:
                if key not in _working:
                    _working[key] = threading.Thread(target=_work_out, args=key, name="bench", daemon=True)
                    _working[key].start()
                working = _working[key]
            working.join(None if wait else PATIENCE)
    if key in _failed:
        raise FrostError(_failed[key])
    if key not in _ready:
        return None
    return judge_board(supply, (), mains_of(mains), measured=mains, esr=esr)


def _work_out(supply: BoardSupply, mains: float, esr: bool) -> None:
    """A table, or why there is none: whatever a sheet says, who waits for it is told."""
    key = (supply, mains, esr)
    for kept in (_ready, _failed):  # tables themselves are kept for the last of them only
        if len(kept) > MOST_KEPT:
            kept.clear()
    try:
        judge_board(supply, (), mains, esr=esr)
        _ready.add(key)
    except FrostError as error:
        _failed[key] = f"This supply can’t be worked out: {error}"
    except Exception:  # noqa: BLE001 -- who waits is told, whatever a sheet says; the log has it all
        _log.exception("A supply could not be worked out.")
        _failed[key] = "This supply can’t be worked out: its parts and what they make do not fit together."
    finally:
        with _lock:
            _working.pop(key, None)
