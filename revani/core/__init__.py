"""The rules of the job: pure functions and frozen models, no I/O, no clock, no database, no web."""
