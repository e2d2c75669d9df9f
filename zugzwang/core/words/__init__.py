"""The sentences about a row's numbers, and text analysis: stems, the brand."""
