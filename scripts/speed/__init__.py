"""The budgets of the design, measured. `make speed` prints the table and writes docs/speed.md."""
