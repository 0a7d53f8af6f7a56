// Sleep on the double: see board.h.
#pragma once
