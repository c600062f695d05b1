"""Rooms as symbols: texts and pictures that others made, read, counted and brought in."""
