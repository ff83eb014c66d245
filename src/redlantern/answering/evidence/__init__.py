"""What the documents say to a question: its lines in order, whether they answer it at all, where documents differ."""
