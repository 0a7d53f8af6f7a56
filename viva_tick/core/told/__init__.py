"""What a board told over its serial line, by the program's own trace: read, said in words, held against the bench."""

from .compared import Compared, Difference, compared, in_words, named
from .lines import Lines, Told, read_lines

__all__ = ["Compared", "Difference", "Lines", "Told", "compared", "in_words", "named", "read_lines"]
