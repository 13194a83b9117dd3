"""Crops afterwards."""
