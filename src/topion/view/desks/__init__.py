"""Desks: views in which one item of the library is made."""
