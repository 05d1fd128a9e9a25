"""What is said to the customer."""
