"""A program against a modelled rig; ways to expose, and nights, compared."""
