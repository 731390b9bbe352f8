"""What happens in time: contacts that follow their coils late, stages, and the fan after the heat."""
