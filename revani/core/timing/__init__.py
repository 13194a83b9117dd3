"""Interval, frames, playback and event; the pace of a shot; starts and other moments."""
