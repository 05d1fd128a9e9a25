"""The unit sheet: one document that describes a unit, and everything else follows from it."""
