"""What people save to look at."""
