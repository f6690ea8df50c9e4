"""Use cases over several parts of the database, without HTTP."""
