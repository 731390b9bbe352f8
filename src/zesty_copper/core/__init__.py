"""Pure computation: no web, no database, no user files, no clock."""
