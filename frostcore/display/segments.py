"""Characters on a seven-segment digit, and how far apart two of them look.

Segments are the usual letters: a top, b and c right (upper, lower), d bottom, e and f left (lower,
upper), g middle.
"""

CHARACTERS: dict[str, frozenset[str]] = {
    character: frozenset(segments)
    for character, segments in {
        "0": "abcdef", "1": "bc", "2": "abdeg", "3": "abcdg", "4": "bcfg", "5": "acdfg", "6": "acdefg",
        "7": "abc", "8": "abcdefg", "9": "abcdfg",
        "A": "abcefg", "b": "cdefg", "C": "adef", "c": "deg", "d": "bcdeg", "E": "adefg", "F": "aefg",
        "G": "acdef", "H": "bcefg", "h": "cefg", "I": "ef", "i": "c",
        "J": "bcde", "L": "def", "l": "ef", "n": "ceg", "N": "abcef", "O": "abcdef", "o": "cdeg",
        "P": "abefg", "q": "abcfg", "r": "eg", "S": "acdfg", "t": "defg", "U": "bcdef",
        "u": "cde", "y": "bcdfg", "Z": "abdeg", "-": "g", "_": "d", "°": "abfg", "=": "dg", " ": "",
    }.items()
}  # fmt: skip


def lit(character: str) -> frozenset[str]:
    """The segments lit for a character; a letter with no form of its own takes its other case's.

    Unknown ones light nothing.
    """
    for form in (character, character.lower(), character.upper()):
        if form in CHARACTERS:
            return CHARACTERS[form]
    return frozenset()


OTHER_CASE, LEAST_APART, APART_TIMES = 0.05, 0.1, 1.5
"""What two characters differ by: b and B; others at least so much; the share of segments they don't have in
common, times so much."""


def looks_apart(first: str, second: str) -> float:
    """0 for the same character, near 0 for one that lights the same segments, 1 for nothing in common."""
    if first == second:
        return 0.0
    if first.lower() == second.lower():
        return OTHER_CASE
    one, other = lit(first), lit(second)
    if not one or not other:
        return 1.0
    return max(LEAST_APART, min(1.0, len(one ^ other) / len(one | other) * APART_TIMES))
