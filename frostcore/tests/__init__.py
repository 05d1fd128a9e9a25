"""Tests of the core.

A slow machine is no failure: properties run without a deadline.
"""

from hypothesis import settings

settings.register_profile("frostline", deadline=None)
settings.load_profile("frostline")
