"""What a language model writes of the evidence: prompts, grammars, claims, summaries and drafts."""
