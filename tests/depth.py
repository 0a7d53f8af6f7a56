"""How deep the tests go that draw at random: `make deep` asks for ten times their examples."""

from __future__ import annotations

import os

DEPTH = int(os.environ.get("DEPTH", "1"))
