"""What the shell, the API and the demo do alike with a job."""
