"""The web application around the core: one app for each area of the work."""

__version__ = "0.2.0"
