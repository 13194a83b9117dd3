"""Every way to change a shot: typed, nudged, dragged, fixed, read in."""
