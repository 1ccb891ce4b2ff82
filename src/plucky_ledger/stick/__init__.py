"""The recorder as one file for a stick: built here from the parts that record, and run there."""
