"""Runs: a unit's temperatures and watts over time on a call, from a logger's file."""
