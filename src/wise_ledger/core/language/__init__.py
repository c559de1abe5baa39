"""The measure language: text to tree, tree to plan, plan to values."""
