"""The web application around the core: one app for each area of the work."""
