"""Sheets: paper with scenes, words, pictures and legends laid out on it at scale."""
