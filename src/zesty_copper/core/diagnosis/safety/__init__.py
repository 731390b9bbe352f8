"""What stops the work or gives pause: `stops` by what is likely and by what was read, `guards` on single readings."""
