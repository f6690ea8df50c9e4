"""Reading devices: when, and what to do when they do not answer."""
