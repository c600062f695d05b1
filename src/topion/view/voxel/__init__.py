"""The table of voxel rooms: an OpenGL view, its ghost and its overlay."""
