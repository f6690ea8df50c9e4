"""Routes of the set-up: one module for each kind of object."""
