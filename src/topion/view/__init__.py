"""The window: turns pointer and keys into calls on the core, and draws what the core says."""
