"""Pastificio Ombralta, a dry-pasta works that does not exist: its model, its devices, its set-up."""
