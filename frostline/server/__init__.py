"""What a server needs around the pages: its environment, proxies, log, error reports, health."""
