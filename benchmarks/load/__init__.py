"""How it stands up to many people, to what is large, and to being killed."""
