"""What every screen shares: the page, the line and its marks, quantities in fields."""
