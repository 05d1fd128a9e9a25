"""The bench: a board out of its unit, read from the mains pin to the last rail."""
