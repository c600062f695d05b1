"""Pictures: files to pixels and back, checked before memory is taken."""
