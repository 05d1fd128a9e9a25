"""The workshop's unit sheets: immutable revisions of documents."""
