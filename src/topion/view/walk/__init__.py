"""Trying a room: the walk in the place of the table, with live things, figure and time line."""
