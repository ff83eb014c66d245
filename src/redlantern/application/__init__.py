# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands share: sessions, questions, documents, models, upkeep and trials.

Knows no interface: functions take values, `report`, `cancel` and `on_step`, and give values.
"""
