"""The table: camera, chunks, ghost, and the widget that joins them."""
