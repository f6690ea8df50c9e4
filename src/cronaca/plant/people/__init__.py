"""People as they are stored: accounts, who is signed in, tokens for programs."""
