"""The history of a project: the only code that puts Edits on and takes them off."""
