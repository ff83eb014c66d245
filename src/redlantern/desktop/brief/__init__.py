"""The brief room: what was gathered, ordered, with own words between, and saved with citations that can be checked."""
