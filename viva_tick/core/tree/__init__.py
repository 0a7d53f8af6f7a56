"""A program as a tree of values, statements and declarations: read from our notation, written in several languages."""
