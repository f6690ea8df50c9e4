"""The process for work in the background."""
