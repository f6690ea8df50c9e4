"""The process that samples, applies logger rules and commits; it knows only core and its ports."""
