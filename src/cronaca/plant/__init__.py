"""What is set up: the plant, its sources, tags, archives, loggers, equipment and rules of runs."""
