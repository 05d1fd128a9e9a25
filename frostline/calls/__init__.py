"""Calls and their tapes."""
