"""The sentences that tell a row's numbers, and what is done with words: stems, the brand."""
