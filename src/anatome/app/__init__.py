"""The window: Qt Widgets that show values and send edits. Nothing here computes a cut."""
