"""What happened: records, runs, notes, reports, texts, and what processes say of themselves."""
