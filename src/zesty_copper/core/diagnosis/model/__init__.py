"""What goes into a diagnosis (`job`) and what comes out of it (`answer`): frozen values, no computation."""
