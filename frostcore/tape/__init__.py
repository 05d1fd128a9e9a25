"""A call's tape: entries that are only ever added, and what follows from them."""
