"""The survey beside the table: findings by room and kind, and the checks that make them."""
