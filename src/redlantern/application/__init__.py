"""What window and commands share: opening a collection with its models. Knows no interface; functions take values and give values."""
