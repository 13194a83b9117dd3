"""What every rule is written in: units, measures, refusals."""
