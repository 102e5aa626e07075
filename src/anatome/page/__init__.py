"""The client's page: chosen scenes and films in one HTML file that needs no network."""
