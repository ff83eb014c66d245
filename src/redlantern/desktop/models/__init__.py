"""The models room: bring in, check and choose the embedding and the language model."""
