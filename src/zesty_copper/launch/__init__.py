"""Starting the application: its private database cluster, its pages, its server."""
