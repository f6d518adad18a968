"""What shows one film: the film, the path lane, the rhythm, the key positions."""
