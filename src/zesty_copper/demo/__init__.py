"""The made-up scenario: a contractor in a harbour town that does not exist."""
