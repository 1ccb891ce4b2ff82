"""Reading what was recorded: entries, costs, advice, trend, what other jobs taught."""
