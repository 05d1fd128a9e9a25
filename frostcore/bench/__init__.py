"""A board out of its unit: what can fail on it, what the meter then shows, which part it is, what to read
next."""
