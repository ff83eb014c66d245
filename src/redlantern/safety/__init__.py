# SPDX-License-Identifier: GPL-3.0-or-later
"""The seal on network sockets, the proof of it, where files may be written, and the keys of collections.

Stands below every other package and imports none of them. `seal.put_on` runs
before anything that reads a file is imported.
"""
