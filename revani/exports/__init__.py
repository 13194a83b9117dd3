"""Open formats, one module per format."""
