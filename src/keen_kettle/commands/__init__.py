"""The command line: each command parses its words and hands them to the core or the desk."""
