"""A code's condition in words, from its structured rule: what the board detected, not which part
failed."""

from frostcore.quantity import format_celsius, format_duration
from frostcore.sheet.model import Condition, Sensor, Sheet, SignalKind, SignalTest, TestState


def describe(sheet: Sheet, condition: Condition) -> str:
    """The whole condition in one sentence, such as ``defrost sensor does not rise above 8 °C within 40
    min, in defrost``."""
    return f" {'or' if condition.join == 'any' else 'and'} ".join(
        describe_test(sheet, test) for test in condition.tests
    )


def describe_test(sheet: Sheet, test: SignalTest) -> str:
    """One test in words."""
    words = f"{subject(sheet, test)} {_state(test)}"
    if test.seconds is not None:
        words += (
            f" {'within' if test.state is TestState.NOT_ABOVE else 'for'} {format_duration(test.seconds)}"
        )
    if test.during:
        words += f", in {sheet.mode(test.during).name.lower()}"
    return words


def rule_parts(sheet: Sheet, test: SignalTest) -> dict[str, str]:
    """One test as the structured rule it is: signal, what is looked for, how long, in which mode (empty
    where it has none)."""
    return {
        "signal": subject(sheet, test),
        "state": _state(test),
        "time": (
            ""
            if test.seconds is None
            else f"{'within' if test.state is TestState.NOT_ABOVE else 'for'} {format_duration(test.seconds)}"
        ),
        "mode": sheet.mode(test.during).name if test.during else "",
    }


def subject(sheet: Sheet, test: SignalTest) -> str:
    """What the test looks at, by its name on the sheet."""
    name = test.signal.id
    match test.signal.kind:
        case SignalKind.SENSOR:
            return sheet.sensor_name(sheet.sensor(name)).lower()
        case SignalKind.RAIL:
            return next(
                f"{rail.name} rail" for board in sheet.boards for rail in board.rails if rail.id == name
            )
        case SignalKind.TACH:
            return f"speed signal of {sheet.component(name).name.lower()}"
        case SignalKind.LINK:
            return f"link to {sheet.component(name).name.lower()}"
    return sheet.component(name).name.lower()


def sensors_in(sheet: Sheet, condition: Condition) -> tuple[Sensor, ...]:
    """The sensors a condition looks at, in its order."""
    return tuple(
        sheet.sensor(test.signal.id) for test in condition.tests if test.signal.kind is SignalKind.SENSOR
    )


def _state(test: SignalTest) -> str:
    limit = _threshold(test)
    match test.state:
        case TestState.ABOVE:
            return f"stays above {limit}"
        case TestState.BELOW:
            return f"stays below {limit}"
        case TestState.NOT_ABOVE:
            return f"does not rise above {limit}"
    return {
        TestState.OPEN: "reads open",
        TestState.SHORT: "reads short",
        TestState.NO_PULSES: "gives no pulses",
        TestState.NO_ANSWER: "gives no answer",
        TestState.STAYS_CLOSED: "stays closed",
        TestState.STAYS_OPEN: "stays open",
    }[test.state]


def _threshold(test: SignalTest) -> str:
    if test.threshold is None:
        return ""
    if test.unit == "celsius":
        return format_celsius(test.threshold)
    return f"{test.threshold:g} {_UNIT_WORDS.get(test.unit, '')}".strip()


_UNIT_WORDS = {"volts": "V", "rpm": "rpm", "amperes": "A", "watts": "W", "count": "times"}
