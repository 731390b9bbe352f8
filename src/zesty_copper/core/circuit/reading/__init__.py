"""What a reading is: its place, its meter, and the state in which it is taken."""
