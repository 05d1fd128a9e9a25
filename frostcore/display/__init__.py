"""What a unit's display shows, and the codes it may mean."""
