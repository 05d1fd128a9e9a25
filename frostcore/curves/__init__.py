"""Thermistor curves: models, tables, fits, the verdict on a reading."""
