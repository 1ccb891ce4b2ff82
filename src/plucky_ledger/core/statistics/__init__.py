"""Statistics: location estimates, outlying boots, control variables, comparison of two states,
sample size, design of experiments.
"""
