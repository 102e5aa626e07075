"""Everything one can do in the window, by subject. Menus, keys and the command finder are made from what each subject says."""
