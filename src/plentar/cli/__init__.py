"""The command line: one command a file, each with an example in its help."""
