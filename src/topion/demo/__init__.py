"""Brinehollow, the demo: its art, its library and its rooms, all made by scripts of ours."""
