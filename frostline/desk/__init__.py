"""The front page."""
