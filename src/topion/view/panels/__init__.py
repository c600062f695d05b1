"""The panels round the table; each hears the session and calls it."""
