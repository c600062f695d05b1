"""Pure functions over arrays of cells; axes are `[y, x]` or `[z, y, x]`, boxes half-open."""
