"""What designers do from a bare start to a result, by what they see in the window."""
