"""A builder's one line, read: words by a vocabulary (data/words/line_words.csv), what they make together
by a small grammar.
"""
