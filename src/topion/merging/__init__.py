"""Three versions of a project put together: file by file, as version control does, or as a whole."""
