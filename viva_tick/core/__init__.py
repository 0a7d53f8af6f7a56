"""The job itself, with no screen and no database: documents, contacts, firmware, runs, findings, emitted code."""
