"""Pictures proposed: which cuts and views show what was asked for, ranked by a score that says why."""
