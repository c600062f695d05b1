"""Arranging what is picked by expressions: a panel in the place of the hands, and its preview."""
