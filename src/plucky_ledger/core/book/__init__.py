"""The book: jobs, postings, balances, verdicts, and what makes a comparison fair."""
