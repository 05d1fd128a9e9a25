"""One part by arithmetic: heaters, windings, fan speed, potentiometers and contacts."""
