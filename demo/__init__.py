"""The demo documents, wholly invented, and what makes them."""
