"""Reading what was recorded."""
