"""The demo: invented people, units and calls, loaded through the same actions the pages use."""
