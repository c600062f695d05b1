"""Home: what is seen while no project is open."""
