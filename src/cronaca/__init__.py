"""Cronaca: historian archives, data loggers, trends and statistics for process plants."""
