"""A table in a picture of a paper: laid straight, its grid found, cut into cells, each reading weighed."""
