# SPDX-License-Identifier: GPL-3.0-or-later
"""Weights and thresholds of ranking and refusal that were fitted or chosen by measurement, each with on what.

None was fitted on questions that the project's figures are measured with. What a
user may set as well (`word_weight`, `answer_threshold`) stands in `settings`, with
these as the defaults.
"""

# Lexical retrieval (BM25F): the usual values of K1 and B (Robertson and Zaragoza, "The Probabilistic Relevance Framework", 2009);
# the fields' weights, in units of one word of the passage's own text, chosen on *database* (docs/retrieval.md).
BM25_K1 = 1.2
BM25_B = 0.75
WORD_UNIT = 2
INNERMOST_HEADING, OTHER_HEADINGS, ABBREVIATION = 4, 1, 1

# Hybrid: what the share of the question's words counts beside two cosines; chosen on *database* and bench/tuning (docs/retrieval.md).
WORD_WEIGHT = 0.4
KEPT_FOR_WORDS = 4
"""So many of the best by words are looked at more closely whatever their meaning: a number stands in one row of a long table."""
COMPARED_BY_LINES = 30
"""So many of the best by words and meaning are compared line by line; docs/retrieval.md says what that loses."""

# Reranking: chosen on *database* and bench/tuning (docs/retrieval.md).
DIGEST_COVERAGE = 0.5
MAX_SIM = 0.8
PROXIMITY = 0.1
ASIDE = 0.5
"""What words in brackets at a question's end count, which a follow-up took from its thread; chosen on bench/tuning's threads."""
SAME_WORDS = 0.9
"""From this likeness on (Jaccard's measure) a passage only repeats a better one."""

# Found lines, first looked at cheaply and then compared word by word: bench/fit_refusal.py on bench/tuning.
LINE_COVERAGE = 0.5
LINE_PASSAGE_COVERAGE = 0.2
LINE_KIND_AT_FIRST, LINE_KIND = 0.12, 0.25
LINE_RANK = 0.15
LINE_CLAUSE_AT_FIRST, LINE_CLAUSE = 1.0, 0.5
LINE_MAX_SIM = 2.0
LINE_SIGN = 0.5
KEPT_SHARE = 0.8
"""A line is kept as found whose score is at least this share of the best one's."""
SUBJECT_SHARE = 0.65
"""The same for what is only a subject: more lines speak of one than answer a question."""

# Refusal: logistic regression by bench/fit_refusal.py on bench/tuning, in the order of EvidenceFeatures.row().
REFUSAL_WEIGHTS = (2.12, 3.07, 2.14, 2.31, 2.06)
REFUSAL_INTERCEPT = -6.14
ANSWER_THRESHOLD = 0.28
WEAK_EVIDENCE = 0.45
"""Of the tuning questions that are answered with a lower score, two in five have no answer in the documents."""

# Reading: logistic regression by bench/fit_reading.py on the first 104 questions of bench/tuning in its mixed order: the
# log-odds of the evidence score, and those of the reading. The intercepts are moved so that together with what was written (below) few
# that are answered are refused: 20 of 30 near the subject are, 6 of 6 off it, and 5 of 68 that are answered.
READING_WEIGHTS = (0.43, 1.44)
READING_INTERCEPT = -0.8
# Written: the same for those of them for which an answer is written: the log-odds before, and how far the answer holds.
WRITTEN_WEIGHTS = (0.79, 2.15)
WRITTEN_INTERCEPT = -1.2
SEARCHED_AGAIN = 0.65
"""With a lower evidence score a model that judges names words to search with once more; bench/second_search.py on bench/tuning."""
SEARCHED_AGAIN_FROM = 1_000
"""Of fewer passages the first search leaves hardly any out, and what is found with further words only pushes out what is near."""
HOPELESS = 0.03
"""With a lower evidence score a question is refused unread."""

# Read-through by lines: a page's features to the chance that it is a hit (bench/fit_readthrough.py). The intercept is moved so
# that hits, from a half on, are the best choice of precision and recall together; doubtful ones hold 95 % of the right pages.
PAGE_WEIGHTS = (1.23, 0.52, 0.01, 0.86, 1.15, 0.89, 0.0, 0.26, 0.63, 0.28, 1.05, 1.91)
PAGE_INTERCEPT = -4.93
PAGE_HIT = 0.5
PAGE_DOUBT = 0.037

# Read-through by a model: an intercept, and what the log-odds by lines and those of the model's yes count
# (bench/fit_page_reading.py, 103 pages that are not silent by their lines). The intercept is moved so that hits begin at a half: there
# 86 % of the right pages among these are hits, and 61 % of the hits right; doubtful ones hold 96 %.
PAGE_READING = (0.61, 0.59, 0.40)
PAGE_READ_HIT = 0.5
PAGE_READ_DOUBT = 0.23
