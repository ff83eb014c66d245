"""Tests of read-throughs."""
