"""Commands for whoever works on the project."""
