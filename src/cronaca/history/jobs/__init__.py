"""Work on what was recorded that runs in the background or at a start."""
