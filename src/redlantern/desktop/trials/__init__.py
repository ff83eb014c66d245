"""The trials room: how each way of ranking finds for one question."""
