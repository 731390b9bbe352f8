"""What each page of a call shows, gathered."""
