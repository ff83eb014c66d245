"""From a question to a sheet: standalone questions, found lines, refusals, written answers, claims and their support.

`engine` ties it together and is what a window or a command talks to.
"""
