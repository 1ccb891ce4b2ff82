"""The book: balances, states held against each other, verdicts, effects, plans, the next step."""
