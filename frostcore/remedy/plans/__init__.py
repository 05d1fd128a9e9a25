"""Changes to the wiring: proposed for a case, solved in every position of what they put in, refused where
they take a protection away, and told in the order of doing."""
