"""The plan: rooms on a sheet, threads between their doors, and the way through the world."""
