"""The one compile: a shot becomes a row a frame."""
