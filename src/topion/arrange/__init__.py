"""Many things by a few expressions: one for each property, worked out for all of them at once."""
