"""SQLite and SQL, and nothing else: returns rows, knows nothing of builds' insides."""
