"""The way of what was decided into the database: queue, spool, flush, quarantine."""
