"""Three versions of a project put together: file by file, as git does, or as a whole."""
