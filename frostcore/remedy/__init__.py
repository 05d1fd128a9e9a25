"""What is done to a unit: the ways in and out."""
