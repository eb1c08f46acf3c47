"""The forms that a workspace has had, one script a step, and the functions that scripts call."""
