"""Endings of files of our own."""

JOB_FILE = ".plucky-job"
"""A whole job."""
