"""The parts of the command line."""
