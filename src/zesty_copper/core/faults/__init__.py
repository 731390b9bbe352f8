"""The fault catalogue: each fault an edit of the network, with its prior and its words."""
