"""The legend desk: texts and pictures of others, and what their symbols stand for."""
