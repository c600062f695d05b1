"""Ratios of our own code against anchors timed in the same run: `./topion bench`."""
