"""What can fail, how often, and what it does to the circuit."""
