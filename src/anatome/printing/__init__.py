"""Sheets put to work: what their frames show is drawn, and all of it becomes pages."""
