"""Tests of how our own weights are made."""
