"""The computation of Frostline: no interface, no files, no network, no clock of its own."""
