"""What was recorded: its tables, how it is read and written, and the work on it."""
