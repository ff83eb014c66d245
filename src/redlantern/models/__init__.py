# SPDX-License-Identifier: GPL-3.0-or-later
"""The embedding model, the language model in its own host process, and where the packaged models lie.

`embedding` runs in this process; `host` is the program of the model host;
`language` starts it and talks to it; `register` finds and checks the files.
"""
