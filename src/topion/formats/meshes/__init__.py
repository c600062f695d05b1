"""Meshes from outside (OBJ, PLY, STL, glTF) as voxel models."""
