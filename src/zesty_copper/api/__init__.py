"""The application's HTTP side: routers thin enough to read at a glance."""
