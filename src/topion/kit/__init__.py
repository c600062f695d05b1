"""The blockout kit: plain tiles, blocks and things with ready rules, all drawn by script."""
