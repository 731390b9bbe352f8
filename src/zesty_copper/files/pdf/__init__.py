"""Sheets to hand over, as PDF: for the customer, for the file, for the electrician, and tags to hang."""
