"""Supplies: what charges a capacitor through diodes, and what is left there under load."""
