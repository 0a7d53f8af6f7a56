"""Viva Tick: design how contacts drive outputs on a small board, and see it run before uploading."""

__version__ = "0.1.0"
