"""What is done with readings: calculations, runs, loggers, records."""
