"""Neighbourhood rules: which tile a cell of a material shows, and why."""
