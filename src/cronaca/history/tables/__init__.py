"""Tables of what was recorded."""
