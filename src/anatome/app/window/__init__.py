"""The main window: what lies where in it, its menus, the finder, the list of keys."""
