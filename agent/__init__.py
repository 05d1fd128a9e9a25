"""The agent: a small program of its own that reads a networked logger and posts its rows to a run on a call.

It knows nothing of Frostline but an address and a token, and Frostline nothing of instruments.
"""
