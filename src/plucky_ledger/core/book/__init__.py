"""The book: balances, comparisons of states, verdicts, effects, plans, the next step."""
