"""The plan of the world: rooms laid out on a sheet, threads between doors, ways through them."""
