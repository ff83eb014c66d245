"""Measures of questions with known answers: how high right pages stand, how sure a mean is, whether one way beats another.

The project's own figures (bench/) and those of a collection's owner come from here.
"""
