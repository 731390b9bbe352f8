"""Evidence, ranking, next test, explanation."""
