"""Who works here: users, roles, signing in."""
