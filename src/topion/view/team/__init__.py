"""Work of several people: what both changed, and another version over this one."""
