"""What to do next on a call, and why."""
