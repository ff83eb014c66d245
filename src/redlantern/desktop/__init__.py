# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: rooms, widgets and theme. It shows and asks; it computes, reads and opens nothing itself.

`start` makes the application, `window` the main window, `desk` the room where
questions are asked; `bridge` runs everything slow off the interface thread.
"""
